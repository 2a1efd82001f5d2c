import { Paperclip } from 'lucide-react';
import { bytes } from '../parts/numbers';
import { attachments as words } from './words';

export function Attachments({
  emailId,
  list,
}: {
  emailId: number;
  list: readonly { position: number; name: string; size: number; inline: boolean }[];
}) {
  const shown = list.filter((item) => !item.inline);
  if (shown.length === 0) return null;
  return (
    <ul className="mt-2 flex flex-wrap gap-1.5" aria-label={words.attachments}>
      {shown.map((item) => (
        <li key={item.position} className="max-w-full">
          <a
            href={`/api/v1/emails/${emailId}/attachments/${item.position}`}
            download
            className="flex max-w-full items-center gap-1.5 rounded border border-line bg-raised px-2 py-0.5 text-sm hover:border-muted"
          >
            <Paperclip size={12} aria-hidden className="shrink-0" />
            <span className="truncate">{item.name}</span>
            <span className="tabular whitespace-nowrap text-muted">{bytes(item.size)}</span>
          </a>
        </li>
      ))}
    </ul>
  );
}
