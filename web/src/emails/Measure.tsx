import type { EmailMeasure } from '@fulvet/contract';
import { exactMoment } from '../parts/Moment';
import { filled } from '../parts/filled';
import { measure as words } from './words';

/** What was counted of an email that was sent from here: only what is likely a person's, and that it is no more than likely. */
export function Measure({ measure: { opened, links, notCounted } }: { measure: EmailMeasure }) {
  const others = words.others(notCounted);
  return (
    <section aria-label={words.openings} className="mt-2 max-w-xl border-l-2 border-line pl-3 text-sm">
      <p>{opened.last === null ? words.notKnown : filled(words.probablyOpened(opened.times), { when: <When at={opened.last} /> })}</p>
      {links.length > 0 && (
        <ul>
          {links.map(({ kind, name, times, last }, place) => (
            <li key={place} className="wrap-anywhere">
              {last === null
                ? words.linkNotKnown(kind, name)
                : filled(words.linkProbablyFollowed(kind, name, times), { when: <When at={last} /> })}
            </li>
          ))}
        </ul>
      )}
      <p className="text-muted">
        {words.doubt} {others}
      </p>
    </section>
  );
}

const When = ({ at }: { at: string }) => (
  <time className="tabular" dateTime={at}>
    {exactMoment(at)}
  </time>
);
