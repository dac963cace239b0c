/** Hands bytes to the browser's own download, under a name. */
export function saveFile(content: Blob, name: string): void {
  const address = URL.createObjectURL(content);
  Object.assign(document.createElement("a"), { href: address, download: name }).click();
  URL.revokeObjectURL(address);
}
