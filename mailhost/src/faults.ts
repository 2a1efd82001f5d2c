/** What the provider is told to do wrong. Each is off at first. */
export interface Faults {
  /** The connection is closed as soon as it is accepted. */
  down: boolean;
  /** Sign-in is refused, whatever the password. */
  refuseSignIn: boolean;
  /** Mail programs are not let in, as where a protocol is switched off. */
  imapOff: boolean;
  /** Submission is refused. */
  smtpOff: boolean;
  /** An email that is handed over is not taken, with a final answer. */
  refuseContent: boolean;
  /** An email that is handed over is taken, and the connection closed before the answer. */
  loseAnswer: boolean;
  /** Mail programs put their own copy into the sent folder. */
  keepNoCopy: boolean;
  /** Wait before each answer, in milliseconds. */
  delayMs: number;
  /** The connection is dropped after so many bytes were sent on it; 0 for never. */
  dropAfterBytes: number;
  /** So many of the next FETCH answers are broken off or malformed. */
  brokenAnswers: number;
  /** Commands a connection may send before it is shut out for asking too much; 0 for no limit. */
  throttleAfter: number;
  /** IDLE is neither offered nor taken. */
  noIdle: boolean;
  /** FETCH leaves out these UIDs, as if they were expunged in that moment. */
  expungeWhileReading: boolean;
}

export const NO_FAULTS: Faults = {
  down: false,
  refuseSignIn: false,
  imapOff: false,
  smtpOff: false,
  refuseContent: false,
  loseAnswer: false,
  keepNoCopy: false,
  delayMs: 0,
  dropAfterBytes: 0,
  brokenAnswers: 0,
  throttleAfter: 0,
  noIdle: false,
  expungeWhileReading: false,
};

/** The faults in force: for everyone, and for single accounts on top of that. */
export class FaultPlan {
  private everybody: Faults = { ...NO_FAULTS };
  private readonly byAccount = new Map<string, Faults>();

  set(faults: Partial<Faults>, address?: string): void {
    if (address === undefined) this.everybody = { ...this.everybody, ...faults };
    else this.byAccount.set(address.toLowerCase(), { ...(this.byAccount.get(address.toLowerCase()) ?? this.everybody), ...faults });
  }

  clear(): void {
    this.everybody = { ...NO_FAULTS };
    this.byAccount.clear();
  }

  of(address: string | null): Faults {
    return (address === null ? undefined : this.byAccount.get(address.toLowerCase())) ?? this.everybody;
  }

  /** @returns true when this answer is to be a broken one */
  takeBrokenAnswer(address: string | null): boolean {
    const faults = this.of(address);
    if (faults.brokenAnswers <= 0) return false;
    faults.brokenAnswers -= 1;
    return true;
  }

  /** The faults that are on, by account; the empty name stands for everyone. */
  all(): Record<string, Faults> {
    return { '': this.everybody, ...Object.fromEntries(this.byAccount) };
  }
}
