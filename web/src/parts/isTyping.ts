/** Inputs that take no letters or digits: keys go past them. */
const TICKS: ReadonlySet<string> = new Set(['checkbox', 'radio', 'button', 'submit', 'range', 'file']);

/** True where a key press is meant for what has the focus. */
export function isTyping(target: EventTarget | null): boolean {
  if (target instanceof HTMLInputElement) return !TICKS.has(target.type);
  return target instanceof HTMLElement && (target.isContentEditable || /^(?:TEXTAREA|SELECT)$/.test(target.tagName));
}
