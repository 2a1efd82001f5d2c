/** What was found true of an email, with its value: evidence for the decision. */
export interface Hit {
  fact: string;
  /** The value that fulfilled it, such as an entry, a word of the subject, a stage. */
  value: string;
  /** Address of the participant concerned, or null. */
  participant: string | null;
}
