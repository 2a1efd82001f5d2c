import type { Random } from './random';

const DAY = 86_400_000;

export function person(item: { name: string; email: string }): { name: string; email: string } {
  return { name: item.name, email: item.email };
}

export function filled(text: string, slots: Record<string, string>): string {
  return text.replace(/\{(\w+)\}/g, (whole, name: string) => slots[name] ?? whole);
}

export function euro(amount: number): string {
  return amount.toLocaleString('en-GB');
}

/** The same moment, moved into office hours of a working day. */
export function workingTime(at: number, random: Random): number {
  const date = new Date(at);
  const day = date.getUTCDay();
  const moved = at + (day === 6 ? 2 : day === 0 ? 1 : 0) * DAY;
  const hour = new Date(moved).getUTCHours();
  if (hour >= 7 && hour <= 17) return moved;
  return moved - (moved % DAY) + random.int(7 * 60, 17 * 60) * 60_000 + (hour > 17 ? DAY : 0);
}

export function asHtml(text: string): string {
  const escaped = text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;');
  return `<div style="font-family:sans-serif">${escaped
    .split('\n\n')
    .map((part) => `<p>${part.replace(/\n/g, '<br>')}</p>`)
    .join('')}</div>`;
}
