/** What is typed while the field that it is meant for still comes. */
export interface TypedAhead {
  /** Ends it. @returns what was typed */
  take: () => string;
}

/** Takes what is typed from now on away from the page, whose keys would else act on it; Esc ends it. */
export function typedAhead(): TypedAhead {
  let text = '';
  const end = (): void => window.removeEventListener('keydown', onKey, true);
  const onKey = (event: KeyboardEvent): void => {
    if (event.ctrlKey || event.metaKey || event.altKey || event.isComposing) return;
    // Whoever gives up waiting has the keys of the page again.
    if (event.key === 'Escape') return end();
    if (event.key === 'Backspace') text = text.slice(0, -1);
    else if ([...event.key].length === 1) text += event.key;
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  window.addEventListener('keydown', onKey, true);
  return {
    take: () => {
      end();
      return text;
    },
  };
}
