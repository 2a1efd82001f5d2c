/** The text of HTML that the server cleaned, in paragraphs and points. */
function paragraphsOf(html: string): string[] {
  const page = new DOMParser().parseFromString(html.replace(/<br\s*\/?>/g, '\n'), 'text/html');
  return [...page.querySelectorAll('p, li')]
    .filter((element) => !element.querySelector('p'))
    .map((element) => (element.closest('li') ? '• ' : '') + (element.textContent ?? ''));
}

export const Paragraphs = ({ html }: { html: string }) =>
  paragraphsOf(html).map((text, at) => (
    <p key={at} className="mb-1 break-words whitespace-pre-line">
      {text}
    </p>
  ));
