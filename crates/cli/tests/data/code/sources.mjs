// What the readers of TypeScript trees share: the folder and the compiler that their arguments name, and the source files.

import { createRequire } from "node:module";
import fs from "node:fs";
import path from "node:path";

export const root = fs.realpathSync(process.argv[2]);
export const ts = createRequire(import.meta.url)(path.resolve(process.argv[3]));

export const files = [];
(function walk(folder) {
  for (const entry of fs.readdirSync(folder, { withFileTypes: true }).sort((a, b) => (a.name < b.name ? -1 : 1))) {
    const at = path.join(folder, entry.name);
    if (entry.isDirectory() && entry.name !== "node_modules") walk(at);
    else if (entry.isFile() && /\.[mc]?[jt]sx?$/.test(entry.name)) files.push(at);
  }
})(root);
