/** Emails that a filter finds are counted so far; a larger number says that there are more. A file of its own: pages need it without the shapes. */
export const MOST_COUNTED = 10_000;
/** Emails that words are found in are counted so far. */
export const MOST_FOUND = 1000;
