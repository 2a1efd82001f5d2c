/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { trial as trialShape } from '@fulvet/contract';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { act, screen, waitFor } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { like } from '../testing/emptyAnswer';
import { openPage } from '../testing/openPage';
import { setListening, unlessTold } from './listening';

/** The stream of the server's events, as the page opens it. */
class Stream {
  static opened: Stream[] = [];
  onopen: (() => void) | null = null;
  onerror: (() => void) | null = null;
  onmessage: ((event: { data: string }) => void) | null = null;
  constructor() {
    Stream.opened.push(this);
  }
  tell(told: object): void {
    this.onmessage?.({ data: JSON.stringify(told) });
  }
  close(): void {
    // Nothing more is told.
  }
}

let before: unknown;
beforeEach(() => {
  before = globalThis.EventSource;
  Object.assign(globalThis, { EventSource: Stream });
  Stream.opened = [];
});
afterEach(() => {
  Object.assign(globalThis, { EventSource: before });
  setListening(false);
});

const running = (done: number) => like(trialShape, { id: 8, name: 'Trial of 4 May', state: 'running', done, total: 100, summary: null });

test('work that goes on is asked for when the server tells of it, and by the clock only while it tells nothing', async () => {
  let done = 10;
  const page = openPage('/trials', { ...workspace(), listTrials: () => ({ trials: [running(done)] }) });
  const isAt = (wanted: string) => waitFor(() => expect(screen.getByRole('progressbar').getAttribute('aria-valuenow')).toBe(wanted));
  await isAt('10');
  const [stream] = Stream.opened;
  act(() => stream?.onopen?.());
  expect(unlessTold(500)).toBe(false);
  await waitFor(() => expect(page.calls('listTrials').length).toBeGreaterThan(1));
  done = 40;
  act(() => stream?.tell({ kind: 'progress', of: 'import' }));
  act(() => stream?.tell({ kind: 'progress', of: 'trial' }));
  await isAt('40');
  act(() => stream?.onerror?.());
  expect(unlessTold(500)).toBe(500);
  done = 80;
  await isAt('80');
});
