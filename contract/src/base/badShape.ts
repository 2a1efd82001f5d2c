/** How the message of a request begins that does not have the shape of the contract; each field's fault follows. */
export const BAD_SHAPE = 'This cannot be taken.';
