const escaped = (text: string): string => text.replace(/[%_\\]/g, '\\$&');

/** A LIKE pattern for texts that contain this one, whatever signs it has. */
export const containing = (text: string): string => `%${escaped(text)}%`;
