import { Link, useSearchParams } from 'react-router';
import { useSearch } from '../api/queries';
import { EmailLine } from './EmailLine';
import { Empty, Page, TextInput, Trouble, Waiting } from '../parts/basics';
import { countedEmails } from '../parts/numbers';
import { KIND_LABELS, recordPath } from '../parts/people';
import { useDecisionPanel } from '../parts/useDecisionPanel';
import { common } from '../parts/words';
import { searchPage as texts } from './words';

/** All that is found for some words: records by name, address or code; emails by their text. */
export default function SearchPage() {
  const [params, setParams] = useSearchParams();
  const text = params.get('text') ?? '';
  const found = useSearch(text);
  const docket = useDecisionPanel();
  return (
    <Page title={texts.search} purpose={texts.recordsByNameAddress} wide>
      <TextInput
        autoFocus
        aria-label={texts.wordsToSearchFor}
        className="max-w-xl"
        placeholder={texts.peopleCompaniesDealsWords}
        value={text}
        onChange={(event) => setParams(event.target.value ? { text: event.target.value } : {}, { replace: true })}
      />
      <Trouble error={found.error} />
      {text.trim().length < 2 && <Empty title={texts.searchEverything}>{texts.typeANameAn}</Empty>}
      {found.isFetching && !found.data && <Waiting what={texts.searching} />}
      {found.data && text.trim().length > 1 && (
        <div className="mt-5 space-y-6">
          {found.data.records.length > 0 && (
            <ul className="grid gap-x-6 sm:grid-cols-2 lg:grid-cols-3" aria-label={common.records}>
              {found.data.records.map((record) => (
                <li key={`${record.kind}${record.id}`} className="border-b border-line">
                  <Link to={recordPath(record.kind, record.id)} className="flex gap-2 px-1 py-1 hover:bg-sunk">
                    <span className="truncate font-medium">{record.name}</span>
                    <span className="ml-auto text-sm whitespace-nowrap text-muted">{KIND_LABELS[record.kind].one}</span>
                  </Link>
                </li>
              ))}
            </ul>
          )}
          <section>
            <h2 className="mb-1 text-lg">
              {countedEmails(found.data.emailTotal, found.data.isMore)}{' '}
              {(found.data.isMore || found.data.emailTotal > found.data.emails.length) && (
                <Link className="ml-2 text-sm font-normal text-spruce hover:underline" to={`/all-mail?text=${encodeURIComponent(text)}`}>
                  {texts.showAllOfThem}
                </Link>
              )}
            </h2>
            <ul>
              {found.data.emails.map((email) => (
                <li
                  key={email.id}
                  className="h-9 max-sm:h-13"
                  tabIndex={0}
                  aria-label={texts.decisionOn(email.content?.subject ?? texts.anEmail)}
                  onKeyDown={(event) => event.key === 'Enter' && event.target === event.currentTarget && docket.open(email.id)}
                >
                  <EmailLine email={email} active={email.id === docket.openId} onOpen={() => docket.open(email.id)} />
                </li>
              ))}
            </ul>
          </section>
          {found.data.records.length + found.data.emails.length === 0 && <Empty title={texts.nothingFound}>{texts.tryFewerOrOther}</Empty>}
        </div>
      )}
    </Page>
  );
}
