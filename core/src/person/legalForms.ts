/** Legal forms and articles of company names, which people write or leave out. A key in the database is built of them, too. */
export const LEGAL_FORMS = ['gmbh', 'ag', 'ltd', 'llc', 'inc', 'bv', 'as', 'ab', 'oy', 'sa', 'plc', 'co', 'the'] as const;
