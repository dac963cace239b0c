/** Exit statuses of the terminal interface. */
export const UNUSABLE = 2;
/** After Ctrl-C: 128 + SIGINT. */
export const INTERRUPTED = 130;

/** How a scan ended, as an exit status; says why on standard error where the medium went away. */
export function statusOf({ stopped, failure }: { readonly stopped: boolean; readonly failure: string | null }): number {
  if (failure) process.stderr.write(`${failure} What was found until then is given.\n`);
  return failure ? UNUSABLE : stopped ? INTERRUPTED : 0;
}
