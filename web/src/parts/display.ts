/** How the application looks in this browser, as its reader wants it. */
export interface Display {
  theme: 'system' | 'light' | 'dark';
  rows: 'compact' | 'roomy';
}

const PLACE = 'fulvet.display';
const USUAL: Display = { theme: 'system', rows: 'compact' };

export function display(): Display {
  try {
    const { theme, rows } = JSON.parse(window.localStorage.getItem(PLACE) ?? '{}') as Partial<Display>;
    return { theme: theme === 'light' || theme === 'dark' ? theme : 'system', rows: rows === 'roomy' ? 'roomy' : 'compact' };
  } catch {
    return USUAL;
  }
}

/** Puts it on the page; colours and spaces follow by the style sheet. */
export function applyDisplay({ theme, rows } = display()): void {
  Object.assign(document.documentElement.dataset, { theme, rows });
}

export function setDisplay(change: Partial<Display>): Display {
  const next = { ...display(), ...change };
  window.localStorage.setItem(PLACE, JSON.stringify(next));
  applyDisplay(next);
  return next;
}

const ROOMY = 1.25;

/** Height of a row of a long list, in pixels. */
export const rowHeight = (compactPx: number): number => Math.round(display().rows === 'roomy' ? compactPx * ROOMY : compactPx);
