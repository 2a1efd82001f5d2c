/** The texts of failed requests. */

export const client = {
  noAnswer: 'The server does not answer. Nothing was changed; try again when it is back.',
  answered: (status: number) => `The server answered ${status}.`,
  brokeWhileSending: 'The connection broke while sending. Nothing of this file was imported; try again.',
  stopped: 'Stopped.',
} as const;
