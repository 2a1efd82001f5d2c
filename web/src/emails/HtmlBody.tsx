import { useRef, useState } from 'react';
import { Button } from '../parts/basics';
import { htmlBody as words } from './words';

/** The HTML body in a frame that runs no scripts; pictures from elsewhere are loaded only when asked for. */
export function HtmlBody({ emailId }: { emailId: number }) {
  const [remote, setRemote] = useState(false);
  const [blocked, setBlocked] = useState(0);
  const [height, setHeight] = useState(240);
  const frame = useRef<HTMLIFrameElement>(null);
  const measure = (): void => {
    const inside = frame.current?.contentDocument;
    if (!inside) return;
    setHeight(Math.min(4000, Math.max(80, inside.documentElement.scrollHeight + 4)));
    setBlocked(Number(inside.querySelector('meta[name=remote-blocked]')?.getAttribute('content') ?? 0));
  };
  return (
    <div>
      {blocked > 0 && !remote && (
        <p className="mb-2 flex flex-wrap items-center gap-2 rounded bg-sunk px-2 py-1 text-sm">
          {words.picturesNotLoaded(blocked)}
          <Button onClick={() => setRemote(true)}>{words.loadPictures}</Button>
        </p>
      )}
      <iframe
        ref={frame}
        title={words.theEmailAsHtml}
        sandbox="allow-same-origin allow-popups allow-popups-to-escape-sandbox"
        referrerPolicy="no-referrer"
        src={`/api/v1/emails/${emailId}/html${remote ? '?remote=show' : ''}`}
        onLoad={measure}
        style={{ height }}
        className="w-full rounded border border-line bg-white"
      />
    </div>
  );
}
