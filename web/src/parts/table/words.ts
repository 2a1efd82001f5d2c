/** The texts of these screens, by the file that shows them. Places in braces are filled by `filled`. */

export const columnHead = {
  widthOf: (label: string) => `Width of ${label}`,
} as const;

export const columnMenu = {
  columns: 'Columns ▾',
  asTheyWere: 'As they were',
} as const;
