import type { Sender } from '@fulvet/contract';
import { useState } from 'react';
import { Button } from '../parts/basics';
import { Paragraphs } from './Paragraphs';
import { editor as words } from './words';

/** What goes along below the text: folded at first, and left out where its writer says so. */
function Below({
  texts,
  html,
  isSent,
  onSent,
}: {
  texts: { show: string; hide: string; send: string };
  html: string;
  isSent: boolean;
  onSent: (isSent: boolean) => void;
}) {
  const [isShown, setIsShown] = useState(false);
  return (
    <div className="mb-2 text-sm">
      <div className="flex flex-wrap items-center gap-x-3">
        <Button kind="quiet" aria-expanded={isShown} onClick={() => setIsShown(!isShown)}>
          {isShown ? texts.hide : texts.show}
        </Button>
        <label className="flex min-h-7 items-center gap-1.5 text-muted">
          <input type="checkbox" checked={isSent} onChange={(event) => onSent(event.target.checked)} />
          {texts.send}
        </label>
      </div>
      {isShown && (
        <div className="max-h-32 overflow-y-auto border-l-2 border-line pl-3 text-muted">
          <Paragraphs html={html} />
        </div>
      )}
    </div>
  );
}

interface SentAlong {
  isSent: boolean;
  onSent: (isSent: boolean) => void;
}

/** What is quoted of the answered email. */
export const Quote = ({ html, ...rest }: SentAlong & { html: string }) => (
  <Below texts={{ show: words.showQuotedText, hide: words.hideQuotedText, send: words.sendQuotedText }} html={html} {...rest} />
);

/** The signature of the address that it is sent from, as it will be sent. */
export const Signature = ({ sender, ...rest }: SentAlong & { sender: Sender }) => (
  <Below texts={{ show: words.showSignature, hide: words.hideSignature, send: words.sendSignature }} html={sender.signed} {...rest} />
);
