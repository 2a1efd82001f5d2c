export const factorBelongsTo = (userId: number): string => `second factor ${userId}`;

export const PROVIDER_SECRET = 'identity provider';

export const mailboxBelongsTo = (mailboxId: number): string => `mailbox ${mailboxId}`;

export const calendarBelongsTo = (mailboxId: number): string => `calendars of mailbox ${mailboxId}`;
