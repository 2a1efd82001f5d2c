import { count, counted } from '../../parts/numbers';

/** The texts of these screens, by the file that shows them. */

export const writeToMany = {
  write: 'Write to these …',
  title: 'One email to each of these people',
  template: 'Template',
  chooseATemplate: 'Choose a template with a subject',
  noTemplate: 'Publish a template with a subject first.',
  counting: 'Counting …',
  willGet: (people: number, found: number) => `${count(people)} of ${counted(found, 'person', 'people')} get it.`,
  leftOut: 'Left out',
  reason: (many: number, why: string) => `${count(many)} ${why}`,
  pace: (perDay: number) => `They go out one after the other, at most ${perDay} a day from your mailbox. Each has a link to unsubscribe.`,
  send: (people: number) => `Send ${counted(people, 'email')}`,
  begun: (people: number) => `${counted(people, 'email')} ${people === 1 ? 'is' : 'are'} on the way. Stop them under Outgoing.`,
} as const;

export const leftOutReasons = {
  'no address': 'without an address',
  twice: 'with an address that is there already',
  colleague: 'from your own company',
  'kept out': 'kept out',
  erased: 'who asked to be erased',
  unsubscribed: 'who unsubscribed',
  bounced: 'with an address that came back',
  'has a series': 'in a series at present',
} as const;

export const bulkSends = {
  title: 'To many',
  progress: (sent: number, total: number) => `${count(sent)} of ${count(total)} sent`,
  stopped: (many: number) => `${count(many)} not sent`,
  stop: 'Stop',
  stopSend: (name: string) => `Stop: ${name}`,
  isStopped: 'Stopped',
  stoppedNow: (name: string) => `Nothing more of ${name} is sent.`,
} as const;
