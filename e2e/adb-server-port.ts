/** Where the tests' adb server listens: not the one that a technician may run. */
export const ADB_SERVER_PORT = 27_311;
