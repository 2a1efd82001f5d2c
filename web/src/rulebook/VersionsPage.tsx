import { useUndo } from '../parts/useUndo';
import type { RulebookVersion } from '@fulvet/contract';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { answersOf, asked, answerKey } from '../api/asked';
import { useState } from 'react';
import { call } from '../api/call';
import { useDraft } from './queries';
import { useKeepDraft } from './useKeepDraft';
import { Button, Page, Trouble, Waiting } from '../parts/basics';
import { Moment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { Option, Select } from '../parts/Select';
import { DraftBar } from './DraftBar';
import { versionsPage as words } from './words';

/** Every version of the rulebook: who put it in force, when, why, and what it changed; and the rulebook as a file. */
export default function VersionsPage() {
  const versions = useQuery(asked('listRulebooks'));
  const draft = useDraft();
  const all = versions.data?.versions ?? [];
  return (
    <Page title={words.versionsOfTheRulebook} purpose={words.everyRulebookThatWas} aside={<TakeFile />}>
      {draft.data && <DraftBar draft={draft.data} />}
      {versions.isPending && <Waiting what={words.readingTheVersions} />}
      <Trouble error={versions.error} />
      <ol className="divide-y divide-line border-y border-line empty:border-0">
        {all.map((item) => (
          <VersionLine key={item.version} version={item} all={all} />
        ))}
      </ol>
    </Page>
  );
}

const SHOWN_LINES = 4;

function VersionLine({ version, all }: { version: RulebookVersion; all: readonly RulebookVersion[] }) {
  const [open, setOpen] = useState(false);
  const lines = version.summary.split('\n').filter(Boolean);
  return (
    <li className="px-1 py-2">
      <div className="flex flex-wrap items-baseline gap-x-3">
        <strong className="tabular w-24">{words.version(version.version)}</strong>
        <span className="grow text-sm text-muted">
          {version.by ?? words.theFirstSetUp} · <Moment at={version.at} />
          {version.pilotMailboxes && words.pilotForMailboxes(version.pilotMailboxes.length)}
          {version.inForce && <span className="ml-2 font-medium text-spruce">{words.inForce}</span>}
        </span>
        <Button kind="quiet" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? words.less : words.more}
        </Button>
      </div>
      <ul className="list-disc pl-5 text-sm">
        {lines.slice(0, SHOWN_LINES).map((line) => (
          <li key={line}>{line}</li>
        ))}
        {lines.length > SHOWN_LINES && <li className="text-muted">{words.andMore(lines.length - SHOWN_LINES)}</li>}
      </ul>
      {open && <Compared version={version} all={all} />}
    </li>
  );
}

/** What a version does otherwise than another; the ways to have it as a file and back in the draft. */
function Compared({ version, all }: { version: RulebookVersion; all: readonly RulebookVersion[] }) {
  const [against, setAgainst] = useState('');
  const whole = useQuery(asked('getRulebookVersion', { version: version.version, against }));
  const client = useQueryClient();
  const notice = useNotice();
  const undo = useUndo();
  const take = useMutation({
    mutationFn: () => call('versionToDraft', { version: version.version }),
    onSuccess: async (draft) => {
      client.setQueryData(answerKey('getDraft'), draft);
      await client.invalidateQueries(answersOf('checkDraft'));
      notice(words.versionIsInThe(version.version), undo(draft.undo));
    },
  });
  return (
    <div className="mt-2 rounded border border-line bg-sunk px-3 py-2">
      <div className="flex flex-wrap items-center gap-2 text-sm">
        {words.comparedWith}
        <div className="w-56 max-w-full">
          <Select aria-label={words.comparedWith} value={against} onValue={(value) => setAgainst(value)}>
            <Option value="">{words.whatStoodBeforeIt}</Option>
            {all
              .filter((item) => item.version !== version.version)
              .map((item) => (
                <Option key={item.version} value={String(item.version)}>
                  {words.versionForVersion(item.version)}
                </Option>
              ))}
          </Select>
        </div>
        <span className="grow" />
        {whole.data && (
          <a
            className="text-spruce hover:underline"
            download={`rulebook-${version.version}.json`}
            href={`data:application/json;charset=utf-8,${encodeURIComponent(JSON.stringify(whole.data.document, null, 2))}`}
          >
            {words.asAFile}
          </a>
        )}
        <Button disabled={take.isPending} onClick={() => take.mutate()}>
          {words.takeItIntoThe}
        </Button>
      </div>
      <Trouble error={whole.error ?? take.error} />
      <ul className="mt-1 list-disc pl-5 text-sm">
        {whole.data?.differences.map((difference) => (
          <li key={difference}>{difference}</li>
        ))}
      </ul>
      {whole.data?.differences.length === 0 && (
        <p className="text-sm text-muted">{whole.data.against === null ? words.nothingStoodBeforeIt : words.theySayTheSame}</p>
      )}
    </div>
  );
}

/** Takes a rulebook from a file into the draft. */
function TakeFile() {
  const draft = useDraft();
  const keep = useKeepDraft();
  const [trouble, setTrouble] = useState<Error | null>(null);
  const read = async (file: File | undefined): Promise<void> => {
    if (!file || !draft.data) return;
    setTrouble(null);
    try {
      const document: unknown = JSON.parse(await file.text());
      keep.mutate({ document, revision: draft.data.revision, said: words.wasRead(file.name) });
    } catch {
      setTrouble(new Error(words.isNotJsonChoose(file.name)));
    }
  };
  return (
    <div className="text-right">
      <label className="inline-flex min-h-8 cursor-pointer items-center rounded border border-line bg-raised px-2.5 py-1 text-sm font-medium focus-within:outline-2 focus-within:outline-focus hover:border-muted">
        {words.takeAFileInto}
        <input
          type="file"
          accept="application/json,.json"
          className="sr-only"
          onChange={(event) => {
            void read(event.target.files?.[0]);
            event.target.value = '';
          }}
        />
      </label>
      <Trouble error={trouble ?? keep.error} />
    </div>
  );
}
