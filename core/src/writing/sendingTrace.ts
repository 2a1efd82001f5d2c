/** What is known of an email whose handing over ended without a word of how. */
export interface SendingTrace {
  /** The answer of the mail server to the whole email, stored as soon as it came. */
  response: string | null;
  /** The email itself was begun to be given to the server. */
  contentBegun: boolean;
  /** Its Message-ID was found in the sent folder; null: that could not be looked at. */
  inSentFolder: boolean | null;
}

/** What a trace proves: that it was sent, that it was not, or neither. `look`: the sent folder has to be looked at first. */
export function whatTraceProves({ response, contentBegun, inSentFolder }: SendingTrace): 'sent' | 'not sent' | 'unclear' | 'look' {
  if (response !== null) return 'sent';
  if (!contentBegun) return 'not sent';
  if (inSentFolder === true) return 'sent';
  return inSentFolder === null ? 'look' : 'unclear';
}
