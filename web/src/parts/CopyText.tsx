import { Check, Copy } from 'lucide-react';
import { useState } from 'react';
import { Address } from './basics';
import { copyText as words } from './words';

/** Something to be pasted elsewhere, with a button that copies it. */
export function CopyText({ text, label }: { text: string; label: string }) {
  const [copied, setCopied] = useState(false);
  const copy = async (): Promise<void> => {
    await navigator.clipboard.writeText(text);
    setCopied(true);
    window.setTimeout(() => setCopied(false), 2500);
  };
  return (
    <span className="flex items-start gap-1.5">
      <Address className="min-w-0 grow select-all">{text}</Address>
      <button
        type="button"
        aria-label={copied ? words.copied : label}
        title={copied ? words.copied : label}
        className="rounded border border-line bg-raised p-1 hover:border-muted"
        onClick={() => void copy()}
      >
        {copied ? <Check size={13} aria-hidden className="text-moss" /> : <Copy size={13} aria-hidden />}
      </button>
    </span>
  );
}
