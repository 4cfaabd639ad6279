"""Reads the classes of a Python tree with `ast`.

    python3 classes.py FOLDER

Writes a JSON list of [file, class, bases, members]: the name of a class with those around it, its bases as written, and its members'
names: what the body assigns, defines, and what `__init__` gives to `self`.
"""

import ast
import json
import os
import sys

root = os.path.realpath(sys.argv[1])
rows = []


def decorators(node):
    return [ast.unparse(one).split("(")[0] for one in node.decorator_list]


def own_attributes(function, out):
    """What `self.name = …` makes, outside of inner functions."""
    def walk(node):
        for child in ast.iter_child_nodes(node):
            if isinstance(child, (ast.FunctionDef, ast.AsyncFunctionDef, ast.ClassDef, ast.Lambda)):
                continue
            targets = []
            if isinstance(child, ast.Assign):
                targets = child.targets
            elif isinstance(child, ast.AnnAssign):
                targets = [child.target]
            for target in targets:
                if isinstance(target, ast.Attribute) and isinstance(target.value, ast.Name) and target.value.id == "self":
                    out.setdefault(target.attr)
            walk(child)

    walk(function)


def members(body, out, is_enum):
    for node in body:
        if isinstance(node, (ast.FunctionDef, ast.AsyncFunctionDef)):
            said = decorators(node)
            if any(one.endswith((".setter", ".deleter")) or one.split(".")[-1] == "overload" for one in said):
                continue
            if node.name == "__init__":
                own_attributes(node, out)
            out.setdefault(node.name)
        elif isinstance(node, ast.Assign):
            for target in node.targets:
                if isinstance(target, ast.Name) and not (is_enum and target.id.startswith("_")):
                    out.setdefault(target.id)
        elif isinstance(node, ast.AnnAssign) and isinstance(node.target, ast.Name):
            if not (is_enum and node.target.id.startswith("_")):
                out.setdefault(node.target.id)
        elif isinstance(node, (ast.If, ast.Try)):
            members(node.body, out, is_enum)
            for handler in getattr(node, "handlers", []):
                members(handler.body, out, is_enum)
            members(node.orelse, out, is_enum)


def classes(body, path, file):
    for node in body:
        if isinstance(node, ast.ClassDef):
            name = ".".join(path + [node.name])
            bases = [ast.unparse(base) for base in node.bases]
            out = {}
            members(node.body, out, any(base.split(".")[-1] in ("Enum", "IntEnum", "Flag", "IntFlag", "StrEnum") for base in bases))
            rows.append([file, name, bases, list(out)])
            classes(node.body, path + [node.name], file)
        elif isinstance(node, (ast.If, ast.Try, ast.With)):
            inner = list(node.body) + list(getattr(node, "orelse", []))
            for handler in getattr(node, "handlers", []):
                inner += handler.body
            classes(inner, path, file)


for folder, _, files in sorted(os.walk(root)):
    for name in sorted(files):
        if name.endswith(".py"):
            path = os.path.relpath(os.path.join(folder, name), root)
            with open(os.path.join(root, path), "rb") as source:
                try:
                    tree = ast.parse(source.read())
                except (SyntaxError, ValueError):
                    continue
            classes(tree.body, [], path)
json.dump(rows, sys.stdout)
