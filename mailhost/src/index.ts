export * from './mailhost';
export type { Faults } from './faults';
export { NO_FAULTS } from './faults';
export type { Account, Folder, StoredMessage } from './mailStore';
export { MailStore } from './mailStore';
