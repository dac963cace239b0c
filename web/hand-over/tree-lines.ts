/** Files shown of one folder before the rest is only counted. */
const SHOWN = 8;

/** A planned hand-over as lines of a tree. */
export function treeLines(folder: string, paths: readonly string[], summary: boolean): string[] {
  const folders = new Map<string, string[]>();
  for (const path of paths) {
    const [kind, name] = path.split("/");
    folders.set(kind, [...(folders.get(kind) ?? []), name]);
  }
  const lines = [folder];
  for (const [kind, names] of folders) {
    lines.push(`├ ${kind}  ${names.length}`);
    const shown = names.slice(0, SHOWN);
    const more = names.length > SHOWN;
    shown.forEach((name, index) => {
      lines.push(`│  ${!more && index === shown.length - 1 ? "└" : "├"} ${name}`);
    });
    if (more) lines.push(`│  └ … ${names.length - SHOWN} more`);
  }
  if (summary) lines.push("├ summary.html");
  lines.push("└ sha256sums.txt");
  return lines;
}
