import type { Rulebook } from '@fulvet/core';
import { useId } from 'react';
import { X } from 'lucide-react';
import { Link } from 'react-router';
import { Page, Trouble, Waiting } from '../parts/basics';
import { listOf } from '../parts/listOf';
import { Choice } from '../parts/Choice';
import { LineForm } from '../parts/form/LineForm';
import { DraftBar } from './DraftBar';
import { useSentences } from './sentences/useSentences';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { whoWeArePage as words } from './words';

type Us = Rulebook['us'];

/** Whose addresses are ours, and what stands for no company. Changes go into the draft. */
export default function WhoWeArePage() {
  const { draft, fixed, put, error } = useSentences(true);
  if (!draft) return error ? <Trouble error={error} /> : <Waiting what={words.loadingTheRulebook} />;
  const { document } = draft;
  const { us } = document;
  const change = (values: Partial<Us>): void => put(document, { ...document, us: { ...us, ...values } });
  return (
    <Page title={words.whoWeAre} purpose={words.whichDomainsAndAddresses} wide>
      <DraftBar draft={draft} />
      <Trouble error={error} />
      <div className="grid max-w-5xl gap-x-10 gap-y-6 border-y border-line py-4 md:grid-cols-2">
        <ValueList
          title={words.ourDomains}
          hint={words.everyoneWithAnAddress}
          kind="domain"
          example="quillmere.example"
          least={1}
          values={us.ownDomains}
          fixed={fixed}
          onChange={(ownDomains) => change({ ownDomains })}
        />
        <ValueList
          title={words.ourAddressesAtOther}
          hint={words.forExampleAShared}
          kind="address"
          example="gauges@groups.example"
          values={us.sharedAddresses}
          fixed={fixed}
          onChange={(sharedAddresses) => change({ sharedAddresses })}
        />
        <ValueList
          title={words.addressesOfFormsOn}
          hint={words.anEmailFromThem}
          kind="address"
          example="website@quillmere.example"
          values={us.formAddresses}
          fixed={fixed}
          onChange={(formAddresses) => change({ formAddresses })}
        />
        <section>
          <h2 className="mb-1 text-base font-semibold">{words.tagsInAddresses}</h2>
          <p>
            {filled(words.and, {
              idaOrders: <span className="font-mono text-[0.92em]">{words.idaOrders}</span>,
              ida: <span className="font-mono text-[0.92em]">{words.ida}</span>,
              tagsIn: (
                <Choice
                  label={words.tagsInAddresses}
                  value={us.tagsTellApart ? 'apart' : 'same'}
                  disabled={fixed}
                  options={[
                    { value: 'same', label: words.areTheSamePerson },
                    { value: 'apart', label: words.areTwoPeople },
                  ]}
                  onChange={(value) => change({ tagsTellApart: value === 'apart' })}
                />
              ),
            })}
          </p>
          <h2 className="mt-6 mb-1 text-base font-semibold">{words.publicMailProviders}</h2>
          <p>
            {filled(words.theirDomainsNeverStand, {
              publicMail: (
                <Link className="text-spruce underline" to="/address-lists?list=public-providers">
                  {words.publicMailProviders}
                </Link>
              ),
            })}
          </p>
        </section>
      </div>
    </Page>
  );
}

interface ValueListProps {
  title: string;
  hint: string;
  kind: keyof typeof KINDS;
  example: string;
  /** How many have to stay. */
  least?: number;
  values: readonly string[];
  fixed: boolean;
  onChange: (values: string[]) => void;
}

const KINDS = {
  domain: { add: words.addADomain, form: /^(?:[^\s@]+\.[^\s@]+|\[.+\])$/u, is: words.aDomain },
  address: { add: words.addAnAddress, form: /^[^\s@]+@[^\s@]+\.[^\s@]+$/u, is: words.anAddress },
};

/** Domains or addresses, each with a button that removes it, and a field that takes several at once. */
function ValueList({ title, hint, kind, example, least = 0, values, fixed, onChange }: ValueListProps) {
  const id = useId();
  const { add, form, is } = KINDS[kind];
  const freshOf = (text: string): string[] => [...new Set(listOf(text.toLowerCase()))].filter((value) => !values.includes(value));
  return (
    <section aria-labelledby={id}>
      <h2 id={id} className="text-base font-semibold">
        {title}
      </h2>
      <p className="mb-2 text-sm text-muted">{hint}</p>
      <ul className="mb-2 flex flex-wrap gap-1.5">
        {values.map((value) => (
          <li key={value} className="inline-flex items-center rounded border border-line bg-raised pl-2 text-sm">
            <span className="font-mono text-[0.92em] break-all">{value}</span>
            <button
              type="button"
              aria-label={words.remove(value)}
              disabled={fixed || values.length <= least}
              className="ml-1 rounded p-1.5 text-muted hover:text-brick disabled:opacity-40"
              onClick={() => onChange(values.filter((other) => other !== value))}
            >
              <X aria-hidden className="size-3.5" />
            </button>
          </li>
        ))}
        {values.length === 0 && <li className="text-sm text-muted">{common.noneYet}</li>}
      </ul>
      <LineForm
        className="max-w-md"
        label={`${add}: ${title.toLowerCase()}`}
        button={add}
        placeholder={example}
        isMono
        disabled={fixed}
        isReady={(text) => freshOf(text).length > 0}
        faultOf={(text) => {
          const unfit = freshOf(text).find((value) => !form.test(value));
          return unfit === undefined ? null : words.isNotSuchAs(unfit, is, example);
        }}
        onSend={(text) => onChange([...values, ...freshOf(text)])}
      />
    </section>
  );
}
