import type { MailboxHealth } from '@fulvet/contract';
import { Check, CircleDashed, OctagonAlert, RefreshCw, TriangleAlert } from 'lucide-react';

const MARKS = {
  well: { Icon: Check, colour: 'var(--moss)' },
  busy: { Icon: RefreshCw, colour: 'var(--spruce)' },
  trouble: { Icon: TriangleAlert, colour: 'var(--ochre)' },
  stopped: { Icon: OctagonAlert, colour: 'var(--brick)' },
  resting: { Icon: CircleDashed, colour: 'var(--slate)' },
} as const;

/** How a mailbox is doing, as a shape in a colour; the words stand beside it. */
export function HealthMark({ level, size = 16 }: { level: MailboxHealth['level']; size?: number }) {
  const { Icon, colour } = MARKS[level];
  return <Icon aria-hidden size={size} className="shrink-0" style={{ color: colour }} />;
}
