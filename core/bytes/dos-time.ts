/**
 * A date and a time of two bytes each, as MS-DOS packed them and FAT and ZIP keep them: days since 1980, two-second steps; local time, taken as
 * it stands. Milliseconds since 1970, or null for a day or an hour that is none.
 * Source: "FAT: General Overview of On-Disk Format" 1.03 (2000), Date and Time Formats
 */
export function dosTime(date: number, time: number): number | null {
  const day = date & 31;
  const month = (date >> 5) & 15;
  const year = 1980 + (date >> 9);
  const second = (time & 31) * 2;
  const minute = (time >> 5) & 63;
  const hour = time >> 11;
  if (day === 0 || month === 0 || month > 12 || hour > 23 || minute > 59 || second > 58) return null;
  return Date.UTC(year, month - 1, day, hour, minute, second);
}
