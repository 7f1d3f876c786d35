// SPDX-License-Identifier: MIT
// Starts `fickle lsp` with the first gate file and hands everything to it.
import { window, workspace } from "vscode";
import { LanguageClient, type LanguageClientOptions } from "vscode-languageclient/node";

let client: LanguageClient | undefined;

export async function activate(): Promise<void> {
  const command = workspace.getConfiguration("ficklegate").get<string>("tool", "fickle");
  const options: LanguageClientOptions = { documentSelector: [{ scheme: "file", language: "fickle" }] };
  client = new LanguageClient("fickle", "Fickle Gate", { command, args: ["lsp"] }, options);
  try {
    await client.start();
  } catch (error) {
    const why = error instanceof Error ? error.message : String(error);
    void window.showErrorMessage(`Fickle Gate: ${command} does not start (${why}). Install it, or say where it stands in the setting ficklegate.tool.`);
  }
}

export function deactivate(): Promise<void> | undefined {
  return client?.stop();
}
