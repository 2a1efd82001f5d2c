/** A subject taken apart. */
export interface SubjectParts {
  /** The subject without answer and forward marks, list tags and outer white space; case as written. */
  base: string;
  isReply: boolean;
  isForward: boolean;
}

// "Re", "Fwd" and their like as mail programs of many languages write them, with a count such as Re[2] or Re(3).
const REPLY =
  /^(?:re|aw|antw|antwort|sv|svar|vs|ref|rép|rif|r|odp|ynt|yan|atb|res|vá|bls|απ|σχετ|отв|ответ|відп|رد|השב|回复|答复|回覆|返信|答覆)(?:\s*[[(]\d{1,4}[\])]|\^\d{1,4}|\d{1,2}(?=\s*[:：]))?\s*(?:\[[^\]\s]{1,60}\]\s*)?[:：]\s*/iu;
const FORWARD = /^(?:fwd?|wg|tr|rv|enc|i|vb|vl|doorst|pd|ilt|转发|轉寄|転送)(?:\s*[[(]\d{1,4}[\])])?\s*(?:\[[^\]\s]{1,60}\]\s*)?[:：]\s*/iu;
const LIST_TAG = /^\[[^\]]{1,60}\]\s*/;
const WRAPPED_FORWARD = /^\[fwd:\s*(.*)\]$/iu;
const TRAILING_FORWARD = /\s*\(fwd\)\s*$/iu;

/**
 * The base subject, as RFC 5256 section 2.1 extracts it, with the answer and forward marks of other languages.
 *
 * @example subjectParts('AW: WG: Re[2]: Fwd: Pegel Ost').base // 'Pegel Ost'
 */
export function subjectParts(subject: string): SubjectParts {
  let rest = subject.slice(0, 2000).replace(/\s+/g, ' ').trim();
  let isReply = false;
  let isForward = false;
  for (;;) {
    const before = rest;
    if (TRAILING_FORWARD.test(rest)) {
      rest = rest.replace(TRAILING_FORWARD, '');
      isForward = true;
    }
    const reply = REPLY.exec(rest);
    if (reply) {
      rest = rest.slice(reply[0].length);
      isReply = true;
    }
    const forward = FORWARD.exec(rest);
    if (forward && !reply) {
      rest = rest.slice(forward[0].length);
      isForward = true;
    }
    const tag = LIST_TAG.exec(rest);
    if (tag && rest.length > tag[0].length) rest = rest.slice(tag[0].length);
    const wrapped = WRAPPED_FORWARD.exec(rest);
    if (wrapped) {
      rest = (wrapped[1] ?? '').trim();
      isForward = true;
    }
    rest = rest.trim();
    if (rest === before) return { base: rest, isReply, isForward };
  }
}

/** The base subject in the form in which two are compared: without case, at most 200 characters. */
export function subjectKey(base: string): string {
  return base.normalize('NFC').toLowerCase().slice(0, 200);
}
