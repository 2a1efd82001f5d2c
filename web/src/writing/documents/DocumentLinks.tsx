import type { DocumentDetail, DocumentLink } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { call } from '../../api/call';
import { Button, Trouble } from '../../parts/basics';
import { Moment } from '../../parts/Moment';
import { useRefreshDocuments } from './DocumentEditor';
import { useDocumentLinks } from './queries';
import { links as words } from './words';

/** Links to a document that the reader sent. */
export function DocumentLinks({ document }: { document: DocumentDetail }) {
  const found = useDocumentLinks(document.id);
  const refresh = useRefreshDocuments();
  const withdraw = useMutation({
    mutationFn: ({ id, isWithdrawn }: DocumentLink) => call('withdrawDocumentLink', { id, body: { withdrawn: !isWithdrawn } }),
    onSuccess: refresh,
  });
  const list = found.data?.links;
  return (
    <section aria-label={words.yourLinks}>
      <h2 className="mb-1 text-lg">{words.yourLinks}</h2>
      <Trouble error={found.error ?? withdraw.error} />
      {list?.length === 0 && <p className="text-muted">{words.none}</p>}
      {list && list.length > 0 && (
        <>
          <div className="overflow-x-auto">
            <table className="w-full text-left">
              <thead className="border-b border-line text-sm text-muted">
                <tr>
                  {[words.to, words.version, words.until, words.state].map((head) => (
                    <th key={head} scope="col" className="py-1 pr-3 font-normal">
                      {head}
                    </th>
                  ))}
                  <th scope="col">
                    <span className="sr-only">{words.whatYouCanDo}</span>
                  </th>
                </tr>
              </thead>
              <tbody className="divide-y divide-line border-b border-line">
                {list.map((link) => (
                  <Row key={link.id} link={link} onWithdraw={() => withdraw.mutate(link)} />
                ))}
              </tbody>
            </table>
          </div>
          <p className="mt-1 text-sm text-muted">{words.onlyYou}</p>
        </>
      )}
    </section>
  );
}

function Row({ link, onWithdraw }: { link: DocumentLink; onWithdraw: () => void }) {
  const people = link.recipients.map(({ name, address }) => name || address).join(', ') || words.noRecipient;
  const isOver = !link.isOpen && !link.isWithdrawn;
  return (
    <tr>
      <td className="py-1 pr-3">{people}</td>
      <td className="tabular py-1 pr-3">{link.version}</td>
      <td className="py-1 pr-3 whitespace-nowrap">
        <Moment at={link.endsAt} />
      </td>
      <td className="py-1 pr-3">{link.isOpen ? words.open : link.isWithdrawn ? words.withdrawn : words.ended}</td>
      <td className="py-1 text-right">
        {!isOver && (
          <Button kind="quiet" aria-label={link.isWithdrawn ? words.allowFor(people) : words.withdrawFor(people)} onClick={onWithdraw}>
            {link.isWithdrawn ? words.allow : words.withdraw}
          </Button>
        )}
      </td>
    </tr>
  );
}
