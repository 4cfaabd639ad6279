// Reads the imports of a TypeScript or JavaScript tree by the compiler's own resolver.
//
//     node imports.mjs FOLDER TYPESCRIPT
//
// Writes a JSON list of [file, line, names, found]: `found` is the file below FOLDER, or null.

import fs from "node:fs";
import path from "node:path";
import { files, root, ts } from "./sources.mjs";

const known = new Map();

/** The options for the files of a folder: reading a configuration lists all files below it. */
function options(folder) {
  if (!known.has(folder)) known.set(folder, configured(folder));
  return known.get(folder);
}

function configured(folder) {
  const config = ts.findConfigFile(folder, ts.sys.fileExists);
  const own = { allowJs: true, moduleResolution: ts.ModuleResolutionKind.Bundler, module: ts.ModuleKind.ESNext };
  if (!config || !config.startsWith(root)) return own;
  const read = ts.readConfigFile(config, ts.sys.readFile);
  const parsed = ts.parseJsonConfigFileContent(read.config ?? {}, ts.sys, path.dirname(config));
  const { paths, baseUrl, pathsBasePath } = parsed.options;
  return { ...own, paths, baseUrl, pathsBasePath };
}

const rows = [];
for (const file of files) {
  const text = fs.readFileSync(file, "utf8");
  const source = ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true);
  const found = (specifier) => {
    const resolved = ts.resolveModuleName(specifier, file, options(path.dirname(file)), ts.sys).resolvedModule;
    const target = resolved && fs.realpathSync(resolved.resolvedFileName);
    const isInside = target && target.startsWith(root + path.sep) && !target.includes("node_modules");
    return isInside && /\.[mc]?[jt]sx?$/.test(target) ? path.relative(root, target) : null;
  };
  const add = (node, literal) => {
    if (!literal || !ts.isStringLiteralLike(literal)) return;
    const line = source.getLineAndCharacterOfPosition(node.getStart()).line + 1;
    rows.push([path.relative(root, file), line, literal.text, found(literal.text)]);
  };
  (function visit(node) {
    if (ts.isImportDeclaration(node) || ts.isExportDeclaration(node)) add(node, node.moduleSpecifier);
    else if (ts.isImportEqualsDeclaration(node) && ts.isExternalModuleReference(node.moduleReference)) add(node, node.moduleReference.expression);
    else if (ts.isImportTypeNode(node) && ts.isLiteralTypeNode(node.argument)) add(node, node.argument.literal);
    else if (ts.isCallExpression(node) && (node.expression.kind === ts.SyntaxKind.ImportKeyword || node.expression.getText() === "require")) add(node, node.arguments[0]);
    ts.forEachChild(node, visit);
  })(source);
}
process.stdout.write(JSON.stringify(rows));
