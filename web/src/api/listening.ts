/** Whether the server's events come in. Where they do not (a proxy may hold them back), what goes on is asked for again and again instead. */
let hears = false;

export const setListening = (does: boolean): void => {
  hears = does;
};

/** How often something is asked for again without being told of it: never while the server's events come in. */
export const unlessTold = (ms: number): number | false => (hears ? false : ms);

/** A look now and then while the server's events come in: an event can be lost, and what runs must not seem to run for ever. */
const LOOK_MS = 2000;

/** How often work that runs is asked for: seldom while the server's events come in. */
export const whileRunning = (ms: number): number => (hears ? LOOK_MS : ms);
