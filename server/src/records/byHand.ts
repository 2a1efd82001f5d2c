/** The origin of a record that a person started from an email; no rule names it again when that email is decided again. */
export const BY_HAND = 'by hand';
