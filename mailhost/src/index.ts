export * from './mailhost';
export type { Faults } from './faults';
export { NO_FAULTS } from './faults';
export type { Account, Folder, MailStore, StoredMessage } from './mailStore';
