// Reads the classes, interfaces and enumerations of a TypeScript or JavaScript tree with the compiler's own parser.
//
//     node classes.mjs FOLDER TYPESCRIPT
//
// Writes a JSON list of [file, name, bases, members]: what is declared outside of functions, its bases as written, and the names of
// its members; those of several declarations of one interface together.

import fs from "node:fs";
import path from "node:path";
import { files, root, ts } from "./sources.mjs";

const nameOf = (node) => {
  if (!node) return undefined;
  if (ts.isComputedPropertyName(node)) return undefined;
  return node.text !== undefined ? node.text.replace(/^#/, "") : undefined;
};

const rows = [];
for (const file of files) {
  const source = ts.createSourceFile(file, fs.readFileSync(file, "utf8"), ts.ScriptTarget.Latest, true);
  const own = new Map();
  const add = (node, kind) => {
    if (!node.name) return;
    const key = `${kind} ${node.name.text}`;
    const known = own.get(key);
    if (known && kind !== "interface") return;
    const row = known ?? [path.relative(root, file), node.name.text, [], []];
    own.set(key, row);
    const isConstructor = ts.isConstructorDeclaration;
    for (const clause of node.heritageClauses ?? []) if (!known) row[2].push(...clause.types.map((type) => type.expression.getText()));
    for (const member of node.members ?? node.type?.members ?? []) {
      const name = isConstructor(member) ? "constructor" : nameOf(member.name);
      if (name !== undefined && !row[3].includes(name)) row[3].push(name);
      if (isConstructor(member)) {
        for (const parameter of member.parameters) {
          if (ts.getCombinedModifierFlags(parameter) & ts.ModifierFlags.ParameterPropertyModifier) {
            const name = nameOf(parameter.name);
            if (name !== undefined && !row[3].includes(name)) row[3].push(name);
          }
        }
      }
    }
  };
  (function visit(node) {
    if (ts.isFunctionLike(node)) return;
    if (ts.isClassDeclaration(node)) return add(node, "class");
    if (ts.isInterfaceDeclaration(node)) return add(node, "interface");
    if (ts.isEnumDeclaration(node)) return add(node, "enum");
    if (ts.isTypeAliasDeclaration(node)) return ts.isTypeLiteralNode(node.type) ? add(node, "record") : undefined;
    ts.forEachChild(node, visit);
  })(source);
  rows.push(...own.values());
}
process.stdout.write(JSON.stringify(rows));
