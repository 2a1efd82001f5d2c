import { useQuery } from '@tanstack/react-query';
import { call } from '../../api/call';
import { useSession } from '../../api/queries';
import { Trouble, Waiting } from '../../parts/basics';
import { Modal } from '../../parts/Modal';
import { common } from '../../parts/words';
import type { Draft } from '../useDraft';
import TemplateEditor from './TemplateEditor';
import { insertText as words } from './words';

/** A draft as a template: values that equal fields of its recipient and records are fields. */
export default function KeepAsTemplate({ draft, onClose }: { draft: Draft; onClose: () => void }) {
  const user = useSession().data?.user;
  const made = useQuery({
    queryKey: ['draftAsTemplate', draft.stored.id],
    queryFn: async () => {
      const { id } = await draft.flush();
      return call('draftAsTemplate', { id });
    },
    gcTime: 0,
    staleTime: Infinity,
  });
  return (
    <Modal open onClose={onClose} title={words.keepAsTemplate} wide>
      <Trouble error={made.error} />
      {!made.data || !user ? (
        <Waiting what={common.loading} />
      ) : (
        <TemplateEditor
          user={user}
          template={null}
          figures={null}
          beginning={{ subject: made.data.subject, html: made.data.html }}
          onMade={onClose}
        />
      )}
    </Modal>
  );
}
