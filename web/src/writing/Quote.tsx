import { useState } from 'react';
import { Button } from '../parts/basics';
import { editor as words } from './words';

/** The text of HTML that the server made of plain text, in paragraphs. */
function paragraphsOf(html: string): string[] {
  const page = new DOMParser().parseFromString(html.replace(/<br>/g, '\n'), 'text/html');
  return [...page.querySelectorAll('p')].map((paragraph) => paragraph.textContent ?? '');
}

/** What is quoted, folded at first; it is sent along where its writer keeps it. */
export function Quote({ html, isSent, onSent }: { html: string; isSent: boolean; onSent: (isSent: boolean) => void }) {
  const [isShown, setIsShown] = useState(false);
  return (
    <div className="mb-2 text-sm">
      <div className="flex flex-wrap items-center gap-x-3">
        <Button kind="quiet" aria-expanded={isShown} onClick={() => setIsShown(!isShown)}>
          {isShown ? words.hideQuotedText : words.showQuotedText}
        </Button>
        <label className="flex min-h-7 items-center gap-1.5 text-muted">
          <input type="checkbox" checked={isSent} onChange={(event) => onSent(event.target.checked)} />
          {words.sendQuotedText}
        </label>
      </div>
      {isShown && (
        <div className="max-h-32 overflow-y-auto border-l-2 border-line pl-3 text-muted">
          {paragraphsOf(html).map((text, at) => (
            <p key={at} className="mb-1 break-words whitespace-pre-line">
              {text}
            </p>
          ))}
        </div>
      )}
    </div>
  );
}
