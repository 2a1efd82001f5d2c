/** The form in which codes are compared: `QH-2041`, `qh 2041` and `QH2041` are one. */
export const codeKey = (code: string): string => code.toUpperCase().replace(/[-_/.#:\s]/g, '');
