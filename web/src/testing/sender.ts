import type { Sender } from '@fulvet/contract';

/** The address of a rep's own mailbox, to send from. */
export const SENDER: Sender = {
  mailboxId: 2,
  address: 'rep@quillmere.example',
  name: 'Rep',
  signature: '',
  signed: '',
  isAlias: false,
  isProven: true,
  codeSentAt: null,
};

/** What a member may do who may write and share. */
export const MAY_WRITE = { maySend: true, mayShare: true, mayBulk: true };
