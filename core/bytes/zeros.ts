/** Are all bytes zero? A plain loop: called for every block of a table. */
export function isAllZero(bytes: Uint8Array): boolean {
  for (let index = 0; index < bytes.length; index++) if (bytes[index] !== 0) return false;
  return true;
}
