import { domainOf } from '@fulvet/core';
import type { EmailFacts } from '@fulvet/core';
import { randomUUID } from 'node:crypto';

/** The Message-ID of an email by which a mailbox is tested, with its angle brackets. */
export const connectionTestId = (address: string): string => `<check-${randomUUID()}@${domainOf(address)}>`;

const TEST_ID = /^check-[\da-f]{8}(?:-[\da-f]{4}){3}-[\da-f]{12}@/;

/** Whether Fulvet itself sent this email, from the mailbox to itself, to test it. Such emails are no mail of the team and are not stored. */
export function isConnectionTest({ messageId, participants }: EmailFacts, address: string): boolean {
  return messageId !== null && TEST_ID.test(messageId) && participants.every((participant) => participant.address === address);
}
