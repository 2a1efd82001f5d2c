/** What is written in one field and parted by spaces, commas or semicolons. */
export const listOf = (text: string): string[] => text.split(/[\s,;]+/).filter(Boolean);
