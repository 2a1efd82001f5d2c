import type { Template } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { sendFile } from '../../api/client';
import { Trouble } from '../../parts/basics';
import { templateFile as words } from './words';

const LOOK = 'inline-flex min-h-8 items-center rounded border border-line bg-raised px-2.5 hover:border-muted';

/** A template as an email that mail programs open. */
export function TemplateFileLink({ id }: { id: number }) {
  return (
    <a href={`/api/v1/templates/${id}/file`} download className={LOOK}>
      {words.saveAsEmail}
    </a>
  );
}

/** Takes subject and text of an email that was saved as a file. */
export function FromEmailFile({ onMade }: { onMade: (made: Template) => void }) {
  const add = useMutation({
    mutationFn: (file: File) => sendFile('/templates/file', file) as Promise<Template>,
    onSuccess: onMade,
  });
  return (
    <div className="mb-3">
      <label className={`${LOOK} cursor-pointer focus-within:outline-2`}>
        {add.isPending ? words.reading : words.fromEmailFile}
        <input
          type="file"
          accept=".eml,message/rfc822"
          className="sr-only"
          disabled={add.isPending}
          onChange={(event) => {
            const [file] = event.target.files ?? [];
            if (file) add.mutate(file);
            event.target.value = '';
          }}
        />
      </label>
      <Trouble error={add.error} />
    </div>
  );
}
