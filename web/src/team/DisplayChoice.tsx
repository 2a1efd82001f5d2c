import { useState } from 'react';
import { display, setDisplay } from '../parts/display';
import type { Display } from '../parts/display';

const CHOICES = {
  theme: {
    legend: 'Colours',
    options: [
      ['system', 'As the system'],
      ['light', 'Light'],
      ['dark', 'Dark'],
    ],
  },
  rows: {
    legend: 'Rows',
    options: [
      ['compact', 'Compact: more on a screen'],
      ['roomy', 'Roomy'],
    ],
  },
} as const;

/** How the application looks in this browser; it takes effect at once. */
export function DisplayChoice() {
  const [chosen, setChosen] = useState(display);
  return (
    <section aria-label="Display">
      <h2 className="mb-1.5 text-lg">Display in this browser</h2>
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
