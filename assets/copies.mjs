// Copies what is shipped as it comes, fonts, htmx, idiomorph and all licences, into built/.
import { cpSync, mkdirSync } from "node:fs";

mkdirSync("built/fonts", { recursive: true });
mkdirSync("built/licences", { recursive: true });
for (const family of ["red-hat-text", "red-hat-display"]) {
  const from = `node_modules/@fontsource-variable/${family}`;
  for (const script of ["latin", "latin-ext"]) {
    const file = `${family}-${script}-wght-normal.woff2`;
    cpSync(`${from}/files/${file}`, `built/fonts/${file}`);
  }
  cpSync(`${from}/LICENSE`, `built/licences/${family}.txt`);
}
cpSync("node_modules/htmx.org/dist/htmx.min.js", "built/htmx.min.js");
cpSync("node_modules/htmx.org/LICENSE", "built/licences/htmx.txt");
cpSync("node_modules/idiomorph/dist/idiomorph.min.js", "built/idiomorph.min.js");
cpSync("node_modules/idiomorph/LICENSE", "built/licences/idiomorph.txt");
cpSync("node_modules/bootstrap/LICENSE", "built/licences/bootstrap.txt");
