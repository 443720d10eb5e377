// Reads texts from files and prints, for each, where each stretch begins and ends on which line, and its scope.
// node scopes.mjs GRAMMAR FILE…
import { readFileSync } from "node:fs";
import { createRequire } from "node:module";

const require = createRequire(import.meta.url);
const oniguruma = require("vscode-oniguruma");
const textmate = require("vscode-textmate");

const [grammarPath, ...files] = process.argv.slice(2);
await oniguruma.loadWASM(readFileSync(require.resolve("vscode-oniguruma/release/onig.wasm")));
const registry = new textmate.Registry({
  onigLib: Promise.resolve({
    createOnigScanner: (patterns) => new oniguruma.OnigScanner(patterns),
    createOnigString: (text) => new oniguruma.OnigString(text),
  }),
  loadGrammar: async () => textmate.parseRawGrammar(readFileSync(grammarPath, "utf8"), grammarPath),
});
const grammar = await registry.loadGrammar("source.stoi");
const all = files.map((file) => {
  let stack = textmate.INITIAL;
  const found = [];
  readFileSync(file, "utf8").split("\n").forEach((line, number) => {
    const read = grammar.tokenizeLine(line, stack);
    stack = read.ruleStack;
    for (const token of read.tokens) {
      // The outermost scope below that of the whole text says what it is.
      found.push([number, token.startIndex, token.endIndex, token.scopes[1] ?? ""]);
    }
  });
  return found;
});
process.stdout.write(JSON.stringify(all));
