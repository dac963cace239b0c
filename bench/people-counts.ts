/** How many people and messages the crowded phone has. */
export const CONTACTS = 10_000;
export const MESSAGES = 100_000;
