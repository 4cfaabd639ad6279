"""Reads the imports of a Go tree with `go list`.

    python3 imports_go.py FOLDER IMPORTPATH

Writes a JSON list of [folder, path, found]: for each package in FOLDER what it imports, and the folder of that below FOLDER, or null.
"""

import json
import os
import subprocess
import sys

root, own = os.path.realpath(sys.argv[1]), sys.argv[2]
environment = dict(os.environ, GO111MODULE="off", GOFLAGS="-mod=mod")
text = subprocess.run(
    ["go", "list", "-e", "-json=ImportPath,Dir,Imports,IgnoredGoFiles", "./..."],
    cwd=root, env=environment, capture_output=True, text=True, check=True,
).stdout
decoder, at, rows = json.JSONDecoder(), 0, []
while at < len(text.rstrip()):
    package, at = decoder.raw_decode(text, at)
    at += len(text[at:]) - len(text[at:].lstrip())
    folder = os.path.relpath(package["Dir"], root)
    for path in package.get("Imports", []):
        inside = path == own or path.startswith(own + "/")
        below = os.path.join(root, path[len(own):].strip("/")) if inside else None
        rows.append([folder, path, os.path.relpath(below, root) if below and os.path.isdir(below) else None])
json.dump(rows, sys.stdout)
