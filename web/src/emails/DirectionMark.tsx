import type { EmailRow } from '@fulvet/contract';
import { directionMark as words } from './words';

type Direction = EmailRow['direction'];

export const directionLabel = (direction: Direction): string => direction ?? words.directionNotKnownYet;

/** Whether we sent it or received it: an arrow away from us, or towards us. The same everywhere. */
export function DirectionMark({ direction }: { direction: Direction }) {
  return (
    <span className="w-4 shrink-0 text-center text-muted" title={directionLabel(direction)}>
      <span aria-hidden>{direction === 'sent' ? '→' : direction === 'received' ? '←' : '·'}</span>
      <span className="sr-only">{directionLabel(direction)}</span>
    </span>
  );
}
