import { useSyncExternalStore } from 'react';

/** Drafts that are open in the tray, and which of them is shown; null: the tray is folded. */
export interface OpenDrafts {
  ids: readonly number[];
  shown: number | null;
}

const NONE: OpenDrafts = { ids: [], shown: null };
const keyOf = (userId: number): string => `fulvet.writing.${userId}`;
const listeners = new Set<() => void>();
const known = new Map<number, OpenDrafts>();

/** Kept in the browser by member: they stay open over pages, loading again and signing in again. */
function read(userId: number): OpenDrafts {
  const found = known.get(userId);
  if (found) return found;
  let stored = NONE;
  try {
    const { ids, shown } = JSON.parse(window.localStorage.getItem(keyOf(userId)) ?? '{}') as Partial<OpenDrafts>;
    if (Array.isArray(ids)) stored = { ids: ids.filter(Number.isInteger), shown: shown ?? null };
  } catch {
    // What the browser kept is not ours any more.
  }
  known.set(userId, stored);
  return stored;
}

function write(userId: number, next: OpenDrafts): void {
  known.set(userId, next);
  window.localStorage.setItem(keyOf(userId), JSON.stringify(next));
  for (const listener of listeners) listener();
}

const listen = (listener: () => void): (() => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

export const useOpenDrafts = (userId: number): OpenDrafts => useSyncExternalStore(listen, () => read(userId));

export function openDraft(userId: number, id: number): void {
  const { ids } = read(userId);
  write(userId, { ids: ids.includes(id) ? ids : [...ids, id], shown: id });
}

/** The draft itself stays, under Outgoing. */
export function closeDraft(userId: number, id: number): void {
  const { ids, shown } = read(userId);
  const left = ids.filter((it) => it !== id);
  write(userId, { ids: left, shown: shown === id ? null : shown });
}

export function foldTray(userId: number): void {
  write(userId, { ...read(userId), shown: null });
}
