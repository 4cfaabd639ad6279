"""Reads the imports of a Python tree by the language's own means: `ast` finds them, `importlib` finds their files.

    python3 imports.py FOLDER [SEED COUNT]

Writes a JSON list of [file, line, names, found]: `found` is the file below FOLDER, or null. With a seed, a random sample.
"""

import ast
import functools
import importlib.machinery
import json
import os
import random
import sys

root = os.path.realpath(sys.argv[1])


@functools.cache
def spec_of(name):
    """The spec of a dotted name, found part by part without loading anything."""
    found, where = None, [root] + sys.path
    for part in name.split("."):
        found = importlib.machinery.PathFinder.find_spec(part, where)
        if found is None:
            return None
        where = found.submodule_search_locations
        if where is None:
            where = []
    return found


def file_of(found):
    """The file of a spec below the root; None for what has no file of its own, or lies elsewhere."""
    if found is None or found.origin is None or found.origin in ("built-in", "frozen"):
        return None
    path = os.path.realpath(found.origin)
    return os.path.relpath(path, root) if path.startswith(root + os.sep) and path.endswith(".py") else None


@functools.cache
def names_at_top(path):
    """What a module itself defines outermost."""
    with open(os.path.join(root, path), "rb") as source:
        tree = ast.parse(source.read())
    out = set()
    for node in tree.body:
        if isinstance(node, (ast.FunctionDef, ast.AsyncFunctionDef, ast.ClassDef)):
            out.add(node.name)
        elif isinstance(node, ast.Assign):
            out.update(target.id for target in node.targets if isinstance(target, ast.Name))
        elif isinstance(node, ast.AnnAssign) and isinstance(node.target, ast.Name):
            out.add(node.target.id)
    return out


def package_of(path):
    folder = os.path.dirname(path)
    return folder.replace(os.sep, "."), folder


rows = []
for folder, _, files in sorted(os.walk(root)):
    for name in sorted(files):
        if not name.endswith(".py"):
            continue
        path = os.path.relpath(os.path.join(folder, name), root)
        try:
            with open(os.path.join(root, path), "rb") as source:
                tree = ast.parse(source.read())
        except (SyntaxError, ValueError):
            continue
        for node in ast.walk(tree):
            if isinstance(node, ast.Import):
                for alias in node.names:
                    rows.append([path, alias.lineno, alias.name, file_of(spec_of(alias.name))])
            elif isinstance(node, ast.ImportFrom):
                package, _ = package_of(path)
                if node.level:
                    parts = package.split(".") if package else []
                    parts = parts[: len(parts) - (node.level - 1)] if node.level > 1 else parts
                    base = ".".join(parts + ([node.module] if node.module else []))
                else:
                    base = node.module
                for alias in node.names:
                    found = spec_of(base) if base else None
                    target = file_of(found)
                    if alias.name != "*" and (target is None or alias.name not in names_at_top(target)):
                        inner = spec_of(f"{base}.{alias.name}") if base else None
                        target = file_of(inner) or target
                    names = "." * node.level + (node.module or "") + " " + alias.name
                    rows.append([path, alias.lineno, names, target])

if len(sys.argv) > 2:
    random.Random(int(sys.argv[2])).shuffle(rows)
    rows = rows[: int(sys.argv[3])]
json.dump(rows, sys.stdout)
