import type { MailboxDetail, MailboxFolder } from '@fulvet/contract';
import { Button } from '../parts/basics';
import { count } from '../parts/numbers';
import { RecordPicker } from '../parts/RecordPicker';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { folderList as texts } from './words';

const ROLES: Record<MailboxFolder['role'], string> = {
  inbox: texts.receivedMail,
  sent: texts.sentMail,
  archive: 'archive',
  drafts: texts.draftsNeverRead,
  junk: texts.junkNeverRead,
  trash: texts.binNeverRead,
  all: texts.everythingASecondTime,
  other: '',
};

/** Whether a folder can be followed: drafts, junk and bin hold nothing that was written to anyone. */
const canFollow = (role: MailboxFolder['role']): boolean => !['drafts', 'junk', 'trash'].includes(role);

/** The folders of a mailbox: which are read, and which stand for a record, so that moving an email there files it. */
export function FolderList({ mailbox, onChange }: { mailbox: MailboxDetail; onChange: (settings: object) => void }) {
  const change = (folder: MailboxFolder, what: object): void => onChange({ folders: [{ id: folder.id, ...what }] });
  return (
    <ul aria-label={common.folders} className="divide-y divide-line border-y border-line">
      {mailbox.folders.map((folder) => (
        <li key={folder.id} className="flex flex-wrap items-center gap-x-3 px-1 py-1">
          <label className="flex min-w-48 grow items-baseline gap-2">
            <input
              type="checkbox"
              checked={folder.followed}
              disabled={!canFollow(folder.role)}
              onChange={(event) => change(folder, { followed: event.target.checked })}
            />
            <span className="min-w-0 break-words">
              {folder.path} <span className="text-sm text-muted">{ROLES[folder.role]}</span>
            </span>
          </label>
          <span className="tabular text-sm text-muted">
            {folder.total > 0 && `${count(folder.total)}${folder.pending > 0 ? texts.toRead(folder.pending) : ''}`}
          </span>
          {canFollow(folder.role) && folder.role !== 'sent' && folder.role !== 'inbox' && (
            <span className="flex items-center gap-1.5 text-sm">
              {folder.fileAs && (
                <span>
                  {filled(texts.movedHere, {
                    filedBy: (
                      <strong>
                        {folder.fileAs.target === 'rules' ? texts.filedByTheRules : texts.filedUnder(folder.fileAs.recordName)}
                      </strong>
                    ),
                  })}
                </span>
              )}
              <RecordPicker
                label={texts.whatMovingAnEmail(folder.path)}
                extra={[
                  ...(folder.fileAs ? [{ label: texts.nothingNoMoreThan, choose: () => change(folder, { fileAs: null }) }] : []),
                  { label: texts.fileThisByThe, choose: () => change(folder, { fileAs: { target: 'rules' } }) },
                ]}
                onPick={(record) => change(folder, { fileAs: { target: record.kind, recordId: record.id } })}
              >
                <Button kind="quiet" className="min-h-6! text-muted">
                  {folder.fileAs ? texts.change : texts.linkToARecord}
                </Button>
              </RecordPicker>
            </span>
          )}
        </li>
      ))}
    </ul>
  );
}
