/** How many tests run at once, each with a server of its own. */
export const PLACES = 2;

/** The place of the test that asks. Playwright numbers those that run at once. */
export const OWN_PLACE = Number(process.env.TEST_PARALLEL_INDEX ?? 0);

/**
 * Not the port that a technician uses: both may run at once. Below the ports that the system gives out by itself
 * (net.ipv4.ip_local_port_range): a client that waits for the server could else meet itself there.
 */
const FIRST = 27_310;

export const serverPort = (place: number): number => FIRST + 2 * place;

/** Where the tests' adb server listens: not the one that a technician may run. */
export const adbServerPort = (place: number): number => FIRST + 1 + 2 * place;
