// typescript.js ROOT MODULES: what the compiler says of ROOT, a line each, without the places in the files.
//
// Asked through its own interface, since the command gives up before it looks at types where options or syntax are amiss.
// Takes the tsconfig.json of ROOT, else strict checks of all sources; the compiler lies in MODULES.
const path = require("path");
const ts = require(path.resolve(process.argv[3], "typescript"));

const root = path.resolve(process.argv[2]);
const quiet = { noEmit: true, skipLibCheck: true, allowImportingTsExtensions: true };
const usual = {
  strict: true,
  target: "es2022",
  lib: ["es2022", "dom", "dom.iterable"],
  module: "esnext",
  moduleResolution: "bundler",
  experimentalDecorators: true,
  esModuleInterop: true,
  jsx: "react",
};

function program() {
  const own = path.join(root, "tsconfig.json");
  if (ts.sys.fileExists(own)) {
    const host = { ...ts.sys, onUnRecoverableConfigFileDiagnostic: () => {} };
    const read = ts.getParsedCommandLineOfConfigFile(own, quiet, host);
    if (read && read.fileNames.length) {
      return ts.createProgram(read.fileNames, read.options);
    }
  }
  const given = { compilerOptions: { ...usual, ...quiet }, include: ["**/*"], exclude: ["**/node_modules/**"] };
  const read = ts.parseJsonConfigFileContent(given, ts.sys, root);
  return ts.createProgram(read.fileNames, read.options);
}

const all = program();
const found = [
  ...all.getOptionsDiagnostics(),
  ...all.getSyntacticDiagnostics(),
  ...all.getGlobalDiagnostics(),
  ...all.getSemanticDiagnostics(),
];
const lines = found.map((each) => {
  const file = each.file ? path.relative(root, each.file.fileName) : "options";
  return `${file}: TS${each.code} ${ts.flattenDiagnosticMessageText(each.messageText, " ").replace(/\s+/g, " ")}`;
});
for (const line of lines.sort()) {
  console.log(line);
}
