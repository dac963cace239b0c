/** What databases and what lies beside them are called: their rows are read together. */
export const DATABASE = "sqlite";
export const DATABASE_LOG = "sqlite-wal";
export const DATABASE_JOURNAL = "sqlite-journal";
/** Stretches of database pages without a database. */
export const STRAY_FORMAT = "sqlite pages";
