/** The texts of these screens, by the file that shows them. Places in braces are filled by `filled`. */

export const useSentForm = {
  this: (fault: string) => `This ${fault}`,
} as const;
