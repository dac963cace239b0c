/** A text that stands in a page as it was written, and runs as nothing. */
export const htmlText = (text: string): string => text.replace(/[&<>"']/g, (character) => `&#${character.charCodeAt(0)};`);
