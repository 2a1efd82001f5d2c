import { useState } from 'react';
import { bodyText as texts } from './words';

interface Part {
  kind: 'own' | 'quote' | 'signature';
  text: string;
}

/** An email's text: what the sender wrote stands open, what is quoted and the signature are folded. */
export function BodyText({ parts }: { parts: readonly Part[] }) {
  return (
    <div className="space-y-1">
      {parts.map((part, at) => (part.kind === 'own' ? <Own key={at} text={part.text} /> : <Folded key={at} part={part} />))}
    </div>
  );
}

function Own({ text }: { text: string }) {
  const trimmed = text.replace(/^\s*\n|\s+$/g, '');
  return trimmed ? <p className="max-w-[78ch] break-words whitespace-pre-wrap">{trimmed}</p> : null;
}

function Folded({ part }: { part: Part }) {
  const [open, setOpen] = useState(false);
  if (!part.text.trim()) return null;
  const lines = part.text.trim().split('\n').length;
  const label = part.kind === 'quote' ? texts.quotedLine(lines) : texts.signature;
  return (
    <div>
      <button
        type="button"
        aria-expanded={open}
        className="rounded bg-sunk px-1.5 text-xs text-muted hover:text-ink"
        onClick={() => setOpen(!open)}
      >
        {open ? texts.foldQuotedText(part.kind === 'quote') : label}
      </button>
      {open && (
        <p className="mt-1 max-w-[78ch] border-l-2 border-line pl-2.5 break-words whitespace-pre-wrap text-muted">{part.text.trim()}</p>
      )}
    </div>
  );
}
