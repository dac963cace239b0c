/** Erases a file of the browser's own storage, by its folders and its name. Most tickets have none, and some places where this runs have no such storage. */
export async function eraseFile(path: readonly string[]): Promise<void> {
  try {
    let folder = await navigator.storage.getDirectory();
    for (const name of path.slice(0, -1)) folder = await folder.getDirectoryHandle(name);
    await folder.removeEntry(path[path.length - 1]);
  } catch {
    // It is not there.
  }
}

/** Erases files of the browser's own storage by how their names begin, but for those that are kept. */
export async function eraseBegunWith(begin: string, kept: ReadonlySet<string> = new Set()): Promise<void> {
  try {
    const folder = await navigator.storage.getDirectory();
    for await (const name of folder.keys()) if (name.startsWith(begin) && !kept.has(name)) await eraseFile([name]);
  } catch {
    // There is no such storage here.
  }
}
