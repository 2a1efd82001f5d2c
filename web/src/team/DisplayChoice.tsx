import { useState } from 'react';
import { display, setDisplay } from '../parts/display';
import type { Display } from '../parts/display';
import { displayChoice as words } from './words';

const CHOICES = {
  theme: {
    legend: words.colours,
    options: [
      ['system', words.asTheSystem],
      ['light', words.light],
      ['dark', words.dark],
    ],
  },
  rows: {
    legend: words.rows,
    options: [
      ['compact', words.compactMoreOnA],
      ['roomy', words.roomy],
    ],
  },
} as const;

/** How the application looks in this browser; it takes effect at once. */
export function DisplayChoice() {
  const [chosen, setChosen] = useState(display);
  return (
    <section aria-label={words.display}>
      <h2 className="mb-1.5 text-lg">{words.displayInThisBrowser}</h2>
      <div className="grid gap-3 sm:grid-cols-2">
        {(Object.keys(CHOICES) as (keyof Display)[]).map((name) => (
          <fieldset key={name}>
            <legend className="mb-1 text-sm font-medium">{CHOICES[name].legend}</legend>
            {CHOICES[name].options.map(([value, label]) => (
              <label key={value} className="flex min-h-7 items-center gap-2">
                <input
                  type="radio"
                  name={`display-${name}`}
                  checked={chosen[name] === value}
                  onChange={() => setChosen(setDisplay({ [name]: value }))}
                />
                {label}
              </label>
            ))}
          </fieldset>
        ))}
      </div>
    </section>
  );
}
