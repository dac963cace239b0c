/** Name of the telephony provider's part in a backup (Android Open Source Project, TelephonyBackupAgent). */
export const isSmsBackup = (name: string | null): boolean => name !== null && /^\d{6}_(sms|mms)_backup$/.test(name);
