import Image from '@tiptap/extension-image';
import Link from '@tiptap/extension-link';
import { EditorContent, useEditor } from '@tiptap/react';
import type { Editor } from '@tiptap/react';
import StarterKit from '@tiptap/starter-kit';
import { Bold, ImagePlus, Italic, List, ListOrdered } from 'lucide-react';
import { useRef } from 'react';
import type { ReactNode } from 'react';
import { clsx } from '../parts/clsx';
import { Option, Select } from '../parts/Select';
import { FieldMarks } from './fieldMarks';
import { editor as words } from './words';

const MARKS = [
  { name: 'bold', label: words.bold, Icon: Bold, run: (editor: Editor) => editor.chain().focus().toggleBold().run() },
  { name: 'italic', label: words.italic, Icon: Italic, run: (editor: Editor) => editor.chain().focus().toggleItalic().run() },
  { name: 'bulletList', label: words.list, Icon: List, run: (editor: Editor) => editor.chain().focus().toggleBulletList().run() },
  {
    name: 'orderedList',
    label: words.numberedList,
    Icon: ListOrdered,
    run: (editor: Editor) => editor.chain().focus().toggleOrderedList().run(),
  },
] as const;

/** Pictures that every mail program shows. */
const PICTURES: ReadonlySet<string> = new Set(['image/png', 'image/jpeg', 'image/gif', 'image/webp']);

/** Pictures that were stored with the email; others, such as those of pasted pages, are left out. */
const OwnPicture = Image.configure({ inline: true }).extend({ parseHTML: () => [{ tag: 'img[src^="/api/v1/outgoing/"]' }] });

/** The text of an email with simple formatting. */
export default function TextEditor({
  label,
  html,
  isFocused,
  fields = [],
  onHtml,
  onSend,
  onReady,
  onSpace,
  onPicture,
  beside,
}: {
  label: string;
  html: string;
  isFocused: boolean;
  onHtml: (html: string) => void;
  /** Merge fields that can be put in. */
  fields?: readonly { key: string; label: string }[];
  /** Ctrl+Enter. */
  onSend?: () => void;
  onReady?: (editor: Editor) => void;
  /** A space was typed: what stands before it may be a shortcut. @returns whether it was */
  onSpace?: (editor: Editor) => boolean;
  /** Stores a picture that stands in the text. @returns where it is seen */
  onPicture?: (file: File) => Promise<string>;
  /** At the right end of the bar with the formatting. */
  beside?: ReactNode;
}) {
  // The editor keeps the first functions that it is given; what is done is done by the newest.
  const made = useRef<Editor | null>(null);
  const acts = useRef({ onSend, onSpace, onPicture });
  acts.current = { onSend, onSpace, onPicture };
  const picker = useRef<HTMLInputElement>(null);
  /** @param at where in the text; left out: at the cursor. @returns whether there was a picture among the files */
  const putIn = (files: FileList | null | undefined, at?: number): boolean => {
    const pictures = [...(files ?? [])].filter(({ type }) => PICTURES.has(type));
    const store = acts.current.onPicture;
    if (!store || pictures.length === 0) return false;
    for (const file of pictures)
      void store(file)
        .then((src) => {
          const where = at ?? made.current?.state.selection.anchor ?? 0;
          made.current
            ?.chain()
            .insertContentAt(where, { type: 'image', attrs: { src, alt: file.name } })
            .run();
        })
        // The draft says why it was not stored.
        .catch(() => undefined);
    return true;
  };
  const editor = useEditor({
    extensions: [
      StarterKit.configure({ heading: false, codeBlock: false, horizontalRule: false }),
      Link.configure({ openOnClick: false, defaultProtocol: 'https' }),
      FieldMarks,
      ...(onPicture ? [OwnPicture] : []),
    ],
    content: html,
    autofocus: isFocused ? 'start' : false,
    editorProps: {
      attributes: {
        role: 'textbox',
        'aria-multiline': 'true',
        'aria-label': label,
        class:
          'min-h-32 outline-none [&_p]:mb-2 [&_ul]:list-disc [&_ol]:list-decimal [&_ul]:pl-5 [&_ol]:pl-5 [&_blockquote]:border-l-2 [&_blockquote]:border-line [&_blockquote]:pl-3 [&_a]:text-spruce [&_a]:underline [&_img]:inline-block [&_img]:max-w-full',
      },
      handlePaste: (_, event) => putIn(event.clipboardData?.files),
      handleDrop: (view, event) => {
        if (!putIn(event.dataTransfer?.files, view.posAtCoords({ left: event.clientX, top: event.clientY })?.pos)) return false;
        event.preventDefault();
        event.stopPropagation();
        return true;
      },
      handleKeyDown: (_, event) => {
        if (event.key === ' ' && made.current && acts.current.onSpace?.(made.current)) return true;
        if (!acts.current.onSend || event.key !== 'Enter' || !(event.ctrlKey || event.metaKey)) return false;
        acts.current.onSend();
        return true;
      },
    },
    onCreate: ({ editor: created }) => {
      made.current = created;
      onReady?.(created);
    },
    onUpdate: ({ editor: changed }) => onHtml(changed.getHTML()),
  });
  if (!editor) return null;
  return (
    <div className="flex min-h-0 grow flex-col">
      <div role="toolbar" aria-label={words.formatting} className="flex gap-0.5 border-b border-line pb-1">
        {MARKS.map(({ name, label, Icon, run }) => (
          <button
            key={name}
            type="button"
            aria-label={label}
            title={label}
            aria-pressed={editor.isActive(name)}
            className={clsx('flex size-7 items-center justify-center rounded hover:bg-sunk', editor.isActive(name) && 'bg-sunk')}
            onClick={() => run(editor)}
          >
            <Icon size={15} />
          </button>
        ))}
        {onPicture && (
          <>
            <button
              type="button"
              aria-label={words.insertPicture}
              title={words.insertPicture}
              className="flex size-7 items-center justify-center rounded hover:bg-sunk"
              onClick={() => picker.current?.click()}
            >
              <ImagePlus size={15} />
            </button>
            <input
              ref={picker}
              type="file"
              accept={[...PICTURES].join(',')}
              multiple
              hidden
              aria-label={words.insertPicture}
              onChange={(event) => {
                putIn(event.target.files);
                event.target.value = '';
              }}
            />
          </>
        )}
        {fields.length > 0 && (
          <Select
            fit="words"
            aria-label={words.insertField}
            value=""
            onValue={(key) => editor.chain().focus().insertContent(`{{${key}}}`).run()}
          >
            <Option value="">{words.insertField}</Option>
            {fields.map((field) => (
              <Option key={field.key} value={field.key}>
                {field.label}
              </Option>
            ))}
          </Select>
        )}
        {beside && <span className="ml-auto flex">{beside}</span>}
      </div>
      <EditorContent editor={editor} className="min-h-0 grow overflow-y-auto py-2" />
    </div>
  );
}
