// Starts the language server where a site is, and shows the documents that it answers commands with.
"use strict";

const vscode = require("vscode");
const { LanguageClient } = require("vscode-languageclient/node");

const SCHEME = "hausblatt";
const COMMANDS = ["why", "without", "open", "sample", "list"];

let client;

/** The documents of answers, by their addresses. */
class Answers {
  constructor() {
    this.texts = new Map();
    this.changed = new vscode.EventEmitter();
    this.onDidChange = this.changed.event;
  }

  provideTextDocumentContent(uri) {
    return this.texts.get(uri.toString()) || "";
  }

  async show({ title, text }) {
    const uri = vscode.Uri.from({ scheme: SCHEME, path: "/" + title.replaceAll("/", "∕") + ".txt" });
    this.texts.set(uri.toString(), text);
    this.changed.fire(uri);
    const document = await vscode.workspace.openTextDocument(uri);
    await vscode.window.showTextDocument(document, { preview: true, viewColumn: vscode.ViewColumn.Beside });
  }
}

async function activate(context) {
  const settings = () => vscode.workspace.getConfiguration("hausblatt");
  const answers = new Answers();
  context.subscriptions.push(vscode.workspace.registerTextDocumentContentProvider(SCHEME, answers));
  const files = ["**/themes/**", "**/content/**", "**/tables/**", "**/hausblatt.toml"];
  client = new LanguageClient(
    "hausblatt",
    "Hausblatt",
    { command: settings().get("command"), args: ["lsp"] },
    {
      documentSelector: files.map((pattern) => ({ scheme: "file", pattern })),
      initializationOptions: { documents: true, hints: settings().get("hints") },
      synchronize: { configurationSection: "hausblatt" },
      middleware: {
        executeCommand: async (command, parameters, next) => {
          const answer = await next(command, parameters);
          if (answer && typeof answer.text === "string") {
            await answers.show(answer);
          }
          return answer;
        },
      },
    },
  );
  for (const name of COMMANDS) {
    const run = () => {
      const editor = vscode.window.activeTextEditor;
      return editor && vscode.commands.executeCommand(`hausblatt.${name}`, editor.document.uri.toString());
    };
    context.subscriptions.push(vscode.commands.registerCommand(`hausblatt.editor.${name}`, run));
  }
  await client.start();
}

function deactivate() {
  return client && client.stop();
}

module.exports = { activate, deactivate };
