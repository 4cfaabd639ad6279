"""Reads a crate as the compiler's own documentation tool has it.

    python3 rust.py DOC.json FOLDER imports|classes

DOC.json is what `rustdoc --output-format json --document-private-items` wrote of the crate in FOLDER. `imports` writes a JSON list of
[file, line, names, found] for the `use` declarations that stand outermost in files: the file of the innermost module that is named, by
the compiler's table of modules; null for what is in no module of the crate. `classes` writes [file, name, members].
"""

import json
import os
import re
import sys

doc = json.load(open(sys.argv[1]))
index = doc["index"]
root = os.path.realpath(sys.argv[2])


def file_of(item):
    """The file below the folder; the compiler may have read a copy of it."""
    name = item["span"]["filename"] if item["span"] else None
    return name[name.rindex("/src/") + 1 :] if name and "/src/" in name else None


# Modules by their paths: the file in which each stands.
modules, owner = {}, {}


def walk(item, path):
    modules[path] = file_of(item)
    owner.setdefault(file_of(item), path)
    for number in item["inner"]["module"]["items"]:
        inner = index.get(str(number))
        if inner and "module" in inner["inner"] and inner["crate_id"] == 0:
            walk(inner, path + (inner["name"],))


walk(index[str(doc["root"])], ())


def without_comments(text):
    """The text with comments and strings as spaces: lines stay where they are."""
    blank = lambda match: re.sub(r"[^\n]", " ", match.group(0))
    return re.sub(r"//[^\n]*|/\*.*?\*/|\"(?:\\.|[^\"\\])*\"|'(?:\\.|[^'\\])'", blank, text, flags=re.S)


def trees(text):
    """The paths of a `use`, with what each is called."""
    text = text.strip()
    if "{" not in text:
        yield text
        return
    head, rest = text.split("{", 1)
    inner, depth, part = rest[: rest.rindex("}")], 0, ""
    for sign in inner + ",":
        if sign == "," and depth == 0:
            if part.strip():
                for tail in trees(part):
                    yield head.strip() + tail
            part = ""
            continue
        depth += {"{": 1, "}": -1}.get(sign, 0)
        part += sign


def resolve(path, here):
    names = [name.strip() for name in path.split("::")]
    if names[0] == "crate":
        at, names = (), names[1:]
    elif names[0] in ("self", "super"):
        at = here
        while names and names[0] in ("self", "super"):
            at = at if names[0] == "self" else at[:-1]
            names = names[1:]
    elif here + (names[0],) in modules:
        at = here
    else:
        return None
    while names and at + (names[0],) in modules:
        at, names = at + (names[0],), names[1:]
    return modules[at]


rows = []
if sys.argv[3] == "imports":
    for file, here in sorted((file, here) for file, here in owner.items() if file):
        with open(os.path.join(root, file), encoding="utf-8") as source:
            text = without_comments(source.read())
        depth, at = 0, 0
        for match in re.finditer(r"[{}]|(?<![\w])use\s+([^;]+);", text):
            if match.start() < at:
                continue
            if match.group(0) == "{":
                depth += 1
            elif match.group(0) == "}":
                depth -= 1
            else:
                at = match.end()
                line = text.count("\n", 0, match.start()) + 1
                for path in trees(match.group(1)) if depth == 0 else ():
                    path = re.sub(r"\s+as\s+\w+$", "", path.strip())
                    path = re.sub(r"::self$", "", path)
                    plain = re.sub(r"\s", "", path)
                    star = plain.endswith("::*")
                    found = resolve(plain[:-3] if star else plain, here)
                    rows.append([file, line, plain[:-3] + " *" if star else plain, found])
else:
    for item in index.values():
        kind = next(iter(item["inner"]))
        if item["crate_id"] != 0 or kind not in ("struct", "enum", "trait", "union") or not file_of(item):
            continue
        about = item["inner"][kind]
        members = []
        name = lambda number: index[str(number)]["name"] if str(number) in index else None
        if kind == "struct":
            shape = about["kind"]
            if isinstance(shape, dict) and "plain" in shape:
                members += [name(number) for number in shape["plain"]["fields"]]
            elif isinstance(shape, dict) and "tuple" in shape:
                members += [str(place) for place, number in enumerate(shape["tuple"]) if number is not None]
        elif kind == "enum":
            members += [name(number) for number in about["variants"]]
        elif kind == "trait":
            members += [name(number) for number in about["items"] if str(number) in index and "function" in index[str(number)]["inner"]]
        for number in about.get("impls", []):
            own = index.get(str(number))
            if kind != "trait" and own and own["inner"]["impl"]["trait"] is None and not own["inner"]["impl"].get("is_synthetic"):
                inner = [index[str(one)] for one in own["inner"]["impl"]["items"] if str(one) in index]
                members += [one["name"] for one in inner if "function" in one["inner"] and file_of(one)]
        rows.append([file_of(item), item["name"], [member for member in members if member]])
json.dump(rows, sys.stdout)
