/** Formats whose files are read as entries: address books, calendars, message exports. */
const EXPORT_FORMATS: readonly string[] = ["vcf", "ics", "csv", "json"];

/** Name of the telephony provider's part in a backup (Android Open Source Project, TelephonyBackupAgent). */
export const isSmsBackup = (name: string | null): boolean => name !== null && /^\d{6}_(sms|mms)_backup$/.test(name);

/** Is a file of this name and format read as entries? */
export const isExport = (name: string | null, format: string): boolean => EXPORT_FORMATS.includes(format) || isSmsBackup(name);
