// As much of an editor as an extension needs to be started: everything it asks for is there, and most of it does nothing.
// node extension_host.js CLIENT PROGRAM SITE
"use strict";

const Module = require("module");
const [client, program, site] = process.argv.slice(2);

/** Anything: can be called, made, and asked for any member, which is anything again. */
function anything(name) {
  const members = {};
  return new Proxy(function () {}, {
    get: (target, key) => {
      if (key === "then") return undefined;
      if (key === "prototype") return target.prototype;
      if (key === Symbol.toPrimitive) return () => name;
      return (members[key] ??= anything(`${name}.${String(key)}`));
    },
    set: (_, key, value) => ((members[key] = value), true),
    apply: () => anything(`${name}()`),
    construct: () => anything(`new ${name}`),
  });
}

class Disposable {
  static from = () => new Disposable();
  dispose() {}
}
class EventEmitter {
  event = () => new Disposable();
  fire() {}
  dispose() {}
}
const event = () => new Disposable();
const address = (text) => ({ toString: () => text, fsPath: text.replace(/^[a-z]+:\/*/, "/"), scheme: text.split(":")[0], path: text });
const Uri = { parse: address, file: (path) => address(`file://${path}`), from: ({ scheme, path }) => address(`${scheme}:${path}`) };
const registered = {};
let provider;

const workspace = {
  getConfiguration: () => ({ get: (key) => (key === "command" ? program : false), inspect: () => undefined }),
  registerTextDocumentContentProvider: (_, given) => ((provider = given), new Disposable()),
  openTextDocument: async (uri) => provider.provideTextDocumentContent(uri),
  workspaceFolders: [{ uri: Uri.file(site), name: "site", index: 0 }],
  textDocuments: [],
  notebookDocuments: [],
  createFileSystemWatcher: () => ({ onDidCreate: event, onDidChange: event, onDidDelete: event, dispose() {} }),
  getWorkspaceFolder: () => undefined,
};
const window = {
  createOutputChannel: () => anything("channel"),
  showTextDocument: async (text) => console.log(`shown: ${text.split("\n")[0]}`),
  visibleTextEditors: [],
  tabGroups: { all: [], onDidChangeTabs: event, onDidChangeTabGroups: event },
};
for (const show of ["showErrorMessage", "showWarningMessage", "showInformationMessage"]) {
  window[show] = async (text) => console.log(`${show}: ${text}`);
}
const commands = {
  registerCommand: (name, run) => ((registered[name] = run), new Disposable()),
  executeCommand: async (name, ...rest) => registered[name]?.(...rest),
};
const orEvent = (known) => new Proxy(known, { get: (target, key) => target[key] ?? event });
const editor = {
  version: "1.99.0",
  Disposable,
  EventEmitter,
  Uri,
  workspace: orEvent(workspace),
  window: orEvent(window),
  commands,
  languages: orEvent({ createDiagnosticCollection: () => anything("diagnostics"), match: () => 1 }),
  env: { language: "en" },
};
const all = new Proxy(editor, { get: (target, key) => (key === "__esModule" ? undefined : (target[key] ??= anything(String(key)))) });
const load = Module._load;
Module._load = function (name, ...rest) {
  return name === "vscode" ? all : load.call(this, name, ...rest);
};

(async () => {
  const extension = require(client);
  await extension.activate({ subscriptions: [] });
  console.log(Object.keys(registered).sort().join(" "));
  window.activeTextEditor = { document: { uri: Uri.file(`${site}/themes/loam/templates/page.html`) } };
  await commands.executeCommand("hausblatt.editor.why");
  await extension.deactivate();
  console.log("ended");
  process.exit(0);
})().catch((error) => {
  console.log(error.stack);
  process.exit(1);
});
