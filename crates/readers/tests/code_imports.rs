//! What imports name, language by language.

mod common;

use bathygram_core::jobs::OneByOne;
use bathygram_readers::code::{ModulesOptions, modules};
use common::{Files, findings};

/// Every import of a tree as `file:line names -> file`, with the kind if it is not plain; packages in square brackets.
fn imports(files: &[(&str, &str)]) -> Vec<String> {
    let options = ModulesOptions { with_imports: true, ..ModulesOptions::default() };
    let facts = modules(&Files::new(files), &options, &OneByOne).expect("facts");
    let one = |import: &bathygram_readers::Imported| {
        let kind = if import.kind == "plain" { String::new() } else { format!(" ({})", import.kind) };
        let to = match (&import.file, &import.package) {
            (Some(file), _) => file.to_string(),
            (None, Some(package)) => format!("[{package}]"),
            (None, None) => "-".to_owned(),
        };
        format!("{}:{} {} -> {to}{kind}", import.seen.file, import.seen.line, import.names)
    };
    facts.imports.iter().map(one).collect()
}

#[test]
fn python_finds_modules_packages_and_names() {
    let found = imports(&[
        ("pyproject.toml", "[project]\nname = \"bay\"\n"),
        ("src/bay/__init__.py", "from .gauge import Gauge\n"),
        ("src/bay/gauge.py", "import os.path\nimport numpy as np, bay.sea\nclass Gauge: pass\n"),
        ("src/bay/sea/__init__.py", "TIDE = 1\n"),
        (
            "src/bay/sea/level.py",
            "from . import TIDE, wave\nfrom ..gauge import Gauge\nfrom .. import Gauge as G\nfrom bay.sea import *\nfrom .gone import x\n\
             from typing import TYPE_CHECKING\nif TYPE_CHECKING:\n    from .wave import Wave\ndef late():\n    from .wave import high\n\
             import importlib\nimportlib.import_module(\"bay.gauge\")\n",
        ),
        ("src/bay/sea/wave.py", "from __future__ import annotations\nclass Wave: pass\n"),
        ("src/names/inner/one.py", "import names.inner.two\nfrom names import inner\nfrom names.inner import two\n"),
        ("src/names/inner/two.py", "import json\n"),
    ]);
    assert_eq!(
        found,
        [
            "src/bay/__init__.py:1 .gauge Gauge -> src/bay/gauge.py",
            "src/bay/gauge.py:1 os.path -> -",
            "src/bay/gauge.py:2 numpy -> [numpy]",
            "src/bay/gauge.py:2 bay.sea -> src/bay/sea/__init__.py",
            "src/bay/sea/level.py:1 . TIDE -> src/bay/sea/__init__.py",
            "src/bay/sea/level.py:1 . wave -> src/bay/sea/wave.py",
            "src/bay/sea/level.py:2 ..gauge Gauge -> src/bay/gauge.py",
            "src/bay/sea/level.py:3 .. Gauge -> src/bay/__init__.py",
            "src/bay/sea/level.py:4 bay.sea * -> src/bay/sea/__init__.py",
            "src/bay/sea/level.py:5 .gone x -> -",
            "src/bay/sea/level.py:6 typing TYPE_CHECKING -> -",
            "src/bay/sea/level.py:8 .wave Wave -> src/bay/sea/wave.py (types)",
            "src/bay/sea/level.py:10 .wave high -> src/bay/sea/wave.py (dynamic)",
            "src/bay/sea/level.py:11 importlib -> -",
            "src/bay/sea/level.py:12 bay.gauge -> src/bay/gauge.py (dynamic)",
            "src/names/inner/one.py:1 names.inner.two -> src/names/inner/two.py",
            "src/names/inner/one.py:2 names inner -> -",
            "src/names/inner/one.py:3 names.inner two -> src/names/inner/two.py",
            "src/names/inner/two.py:1 json -> -",
        ]
    );
}

#[test]
fn a_module_of_one_s_own_is_told_from_one_of_the_language() {
    let found = imports(&[
        ("tools/platform/a.py", "x = 1\n"),
        ("tools/run.py", "import platform\nimport json\n"),
        ("tools/json.py", "y = 1\n"),
    ]);
    // A folder of modules gives way to the language; a module beside a script does not.
    assert_eq!(found, ["tools/run.py:1 platform -> -", "tools/run.py:2 json -> tools/json.py"]);
}

#[test]
fn scripts_find_files_folders_aliases_and_packages() {
    let found = imports(&[
        ("package.json", "{ \"private\": true, \"workspaces\": [\"packages/*\"] }"),
        (
            "tsconfig.base.json",
            "{ // shared\n \"compilerOptions\": { \"baseUrl\": \".\", \"paths\": { \"@sea/*\": [\"packages/sea/src/*\"], }, }, }",
        ),
        (
            "packages/sea/package.json",
            "{ \"name\": \"@tide/sea\", \"exports\": { \".\": { \"types\": \"./dist/index.d.ts\", \"import\": \"./dist/index.js\" }, \"./level/*\": \"./src/level/*.ts\" }, \"imports\": { \"#wave\": \"./src/wave.ts\" } }",
        ),
        (
            "packages/sea/src/index.ts",
            "export * from \"./wave\";\nexport { Level as L } from './level';\nexport type { Datum } from \"./level/datum.js\";\n",
        ),
        ("packages/sea/src/wave.ts", "import w from \"#wave\";\nimport x = require(\"./level\");\n"),
        ("packages/sea/src/level/index.ts", "export class Level {}\n"),
        ("packages/sea/src/level/datum.ts", "export interface Datum {}\n"),
        ("packages/desk/tsconfig.json", "{ \"extends\": \"../../tsconfig.base.json\" }"),
        ("packages/desk/package.json", "{ \"name\": \"desk\", \"main\": \"lib/main.js\" }"),
        (
            "packages/desk/src/main.tsx",
            "import { L } from \"@tide/sea\";\nimport type { Datum } from '@tide/sea/level/datum';\nimport { type Wave, high } from \"@sea/wave\";\n\
             import fs from \"node:fs\";\nimport { h } from \"view-lib/dom\";\nimport \"./style.css\";\nimport \"./gone\";\nconst late = () => import(\"./late\");\n\
             const old = require(`./old`);\nconst v = require(name);\n",
        ),
        ("packages/desk/src/late.js", "module.exports = 1;\n"),
        ("packages/desk/src/old/index.cjs", "import('desk');\n"),
        ("packages/desk/src/style.css", "a {}"),
    ]);
    assert_eq!(
        found,
        [
            "packages/desk/src/main.tsx:1 @tide/sea L -> packages/sea/src/index.ts",
            "packages/desk/src/main.tsx:2 @tide/sea/level/datum Datum -> packages/sea/src/level/datum.ts (types)",
            "packages/desk/src/main.tsx:3 @sea/wave Wave -> packages/sea/src/wave.ts (types)",
            "packages/desk/src/main.tsx:3 @sea/wave high -> packages/sea/src/wave.ts",
            "packages/desk/src/main.tsx:4 node:fs default -> -",
            "packages/desk/src/main.tsx:5 view-lib/dom h -> [view-lib]",
            "packages/desk/src/main.tsx:6 ./style.css -> -",
            "packages/desk/src/main.tsx:7 ./gone -> -",
            "packages/desk/src/main.tsx:8 ./late -> packages/desk/src/late.js (dynamic)",
            "packages/desk/src/main.tsx:9 ./old -> packages/desk/src/old/index.cjs",
            "packages/desk/src/old/index.cjs:1 desk -> packages/desk/src/main.tsx (dynamic)",
            "packages/sea/src/index.ts:1 ./wave * -> packages/sea/src/wave.ts",
            "packages/sea/src/index.ts:2 ./level Level -> packages/sea/src/level/index.ts",
            "packages/sea/src/index.ts:3 ./level/datum.js Datum -> packages/sea/src/level/datum.ts (types)",
            "packages/sea/src/wave.ts:1 #wave default -> packages/sea/src/wave.ts",
            "packages/sea/src/wave.ts:2 ./level -> packages/sea/src/level/index.ts",
        ]
    );
}

#[test]
fn rust_finds_modules_crates_and_paths() {
    let found = imports(&[
        (
            "Cargo.toml",
            "[workspace]\nmembers = [\"sea\", \"desk\"]\n[workspace.dependencies]\ntide = { path = \"sea\", package = \"sea-level\" }\n",
        ),
        (
            "sea/Cargo.toml",
            "[package]\nname = \"sea-level\"\nedition = \"2021\"\n[lib]\nname = \"sea\"\n[dependencies]\nserde = \"1\"\n",
        ),
        (
            "sea/src/lib.rs",
            "pub mod gauge;\nmod wave;\n#[path = \"odd/place.rs\"]\nmod placed;\npub use wave::{Wave, high as top};\npub use self::gauge::*;\n",
        ),
        (
            "sea/src/gauge/mod.rs",
            "mod frame;\nuse frame::Frame;\nuse super::wave::{self, Wave};\nuse serde::Serialize;\nuse ::std::fmt;\npub struct Gauge;\n",
        ),
        (
            "sea/src/gauge/frame.rs",
            "pub struct Frame;\nuse super::super::placed;\n#[cfg(test)]\nmod tests { use super::*; use crate::Gone; }\n",
        ),
        (
            "sea/src/wave.rs",
            "pub struct Wave;\npub fn high() {}\nmod inner { use super::Wave; use crate::gauge::Gauge; }\n",
        ),
        ("sea/src/odd/place.rs", "wrap! { use crate::wave::Wave; }\n"),
        ("sea/src/left.rs", "use crate::wave;\n"),
        ("desk/Cargo.toml", "[package]\nname = \"desk\"\nedition = \"2021\"\n[dependencies]\ntide.workspace = true\n"),
        ("desk/src/main.rs", "use tide::{gauge::Gauge, top};\nuse tide::Wave as W;\nfn main() {}\n"),
    ]);
    assert_eq!(
        found,
        [
            "desk/src/main.rs:1 tide::gauge::Gauge -> sea/src/gauge/mod.rs",
            "desk/src/main.rs:1 tide::top -> sea/src/lib.rs",
            "desk/src/main.rs:2 tide::Wave -> sea/src/lib.rs",
            "sea/src/gauge/frame.rs:2 super::super::placed -> sea/src/odd/place.rs",
            "sea/src/gauge/mod.rs:2 frame::Frame -> sea/src/gauge/frame.rs",
            "sea/src/gauge/mod.rs:3 super::wave -> sea/src/wave.rs",
            "sea/src/gauge/mod.rs:3 super::wave::Wave -> sea/src/wave.rs",
            "sea/src/gauge/mod.rs:4 serde::Serialize -> [serde]",
            "sea/src/gauge/mod.rs:5 ::std::fmt -> -",
            "sea/src/left.rs:1 crate::wave -> sea/src/wave.rs",
            "sea/src/lib.rs:5 wave::Wave -> sea/src/wave.rs",
            "sea/src/lib.rs:5 wave::high -> sea/src/wave.rs",
            "sea/src/lib.rs:6 self::gauge * -> sea/src/gauge/mod.rs",
            "sea/src/odd/place.rs:1 crate::wave::Wave -> sea/src/wave.rs",
            "sea/src/wave.rs:3 super::Wave -> sea/src/wave.rs",
            "sea/src/wave.rs:3 crate::gauge::Gauge -> sea/src/gauge/mod.rs",
        ]
    );
}

#[test]
fn old_editions_of_rust_begin_at_the_root() {
    let found = imports(&[
        ("Cargo.toml", "[package]\nname = \"bay\"\n[dependencies]\nlibc = \"0\"\n"),
        ("src/lib.rs", "extern crate libc;\nmod a;\nmod b;\n"),
        ("src/a.rs", "use b::B;\nuse libc::c_int;\n"),
        ("src/b.rs", "pub struct B;\n"),
    ]);
    assert_eq!(
        found,
        ["src/a.rs:1 b::B -> src/b.rs", "src/a.rs:2 libc::c_int -> [libc]", "src/lib.rs:1 ::libc -> [libc]"]
    );
}

#[test]
fn java_finds_types_in_any_source_root() {
    let found = imports(&[
        (
            "core/src/main/java/bay/sea/Gauge.java",
            "package bay.sea;\nimport java.util.List;\nimport bay.desk.*;\nclass Gauge { Desk d; Level l; }\n",
        ),
        (
            "core/src/main/java/bay/sea/Level.java",
            "package bay.sea;\nimport static bay.desk.Desk.CALL;\nimport org.other.lib.deep.Thing;\nclass Level {}\n",
        ),
        (
            "desk/src/bay/desk/Desk.java",
            "package bay.desk;\nimport bay.sea.Gauge;\nimport bay.sea.Gauge.Frame;\nimport bay.sea.Gone;\npublic class Desk { public static int CALL; }\n",
        ),
    ]);
    assert_eq!(
        found,
        [
            "core/src/main/java/bay/sea/Gauge.java:2 java.util.List -> -",
            "core/src/main/java/bay/sea/Gauge.java:3 bay.desk * -> -",
            "core/src/main/java/bay/sea/Level.java:2 bay.desk.Desk.CALL -> desk/src/bay/desk/Desk.java",
            "core/src/main/java/bay/sea/Level.java:3 org.other.lib.deep.Thing -> [org.other.lib]",
            "desk/src/bay/desk/Desk.java:2 bay.sea.Gauge -> core/src/main/java/bay/sea/Gauge.java",
            "desk/src/bay/desk/Desk.java:3 bay.sea.Gauge.Frame -> core/src/main/java/bay/sea/Gauge.java",
            "desk/src/bay/desk/Desk.java:4 bay.sea.Gone -> -",
        ]
    );
}

#[test]
fn go_finds_packages_of_its_modules() {
    let found = imports(&[
        ("go.mod", "module harbour.example/bay // the bay\n\ngo 1.20\n"),
        (
            "main.go",
            "package main\nimport (\n  \"fmt\"\n  sea \"harbour.example/bay/sea\"\n  _ \"harbour.example/bay/gone\"\n)\nfunc main() {}\n",
        ),
        ("sea/gauge.go", "package sea\nimport \"harbour.example/other/lib/deep\"\n"),
        ("sea/level.go", "package sea\n"),
        ("desk/go.mod", "module harbour.example/bay/desk\n"),
        ("desk/desk.go", "package desk\nimport \"harbour.example/bay/sea\"\n"),
        ("sea/gauge_test.go", "package sea\nimport \"testing\"\n"),
    ]);
    assert_eq!(
        found,
        [
            "desk/desk.go:2 harbour.example/bay/sea -> sea/gauge.go",
            "main.go:3 fmt -> -",
            "main.go:4 harbour.example/bay/sea -> sea/gauge.go",
            "main.go:5 harbour.example/bay/gone -> -",
            "sea/gauge.go:2 harbour.example/other/lib/deep -> [harbour.example/other/lib]",
        ]
    );
}

#[test]
fn what_is_imported_and_not_there_is_named_once_a_file() {
    let files = [
        ("bay/__init__.py", ""),
        ("bay/a.py", "from .gone import x\nfrom .gone import y\nfrom .tests import z\nfrom .made_pb2 import m\n"),
        ("bay/tests/__init__.py", "z = 1\n"),
        ("bay/made_pb2.py", "m = 1\n"),
    ];
    let facts = modules(&Files::new(&files), &ModulesOptions::default(), &OneByOne).expect("facts");
    let missing: Vec<String> =
        findings(&facts).into_iter().filter(|finding| finding.starts_with("not-found")).collect();
    assert_eq!(missing, ["not-found bay/a.py:1"]);
}

#[test]
fn broken_files_give_what_can_be_read() {
    let found = imports(&[
        ("a.py", "import b\ndef (:\n  ???\nimport c\n"),
        ("b.py", "class B:\n"),
        ("c.py", "x = 1\n"),
        ("d.rs", "use std::fmt;\nfn {{{ \nmod e;\n"),
        ("e.rs", "pub struct E"),
    ]);
    assert!(
        found.contains(&"a.py:1 b -> b.py".to_owned()) && found.contains(&"a.py:4 c -> c.py".to_owned()),
        "{found:?}"
    );
    let deep = format!("{}\n", "(".repeat(80)).repeat(2_000);
    let nested = imports(&[("deep.py", &format!("import late\nx = {deep}")), ("late.py", "")]);
    assert_eq!(nested, ["deep.py:1 late -> late.py"]);
    let long = "mod a {\n".repeat(5_000) + &"}\n".repeat(5_000);
    assert!(imports(&[("lib.rs", &long)]).is_empty());
}
