import { EditorContent, useEditor } from '@tiptap/react';
import type { Editor } from '@tiptap/react';
import StarterKit from '@tiptap/starter-kit';
import { Bold, Italic, List, ListOrdered } from 'lucide-react';
import { clsx } from '../parts/clsx';
import { composer, editor as words } from './words';

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

/** The text of an email with simple formatting. */
export default function TextEditor({
  html,
  isFocused,
  onHtml,
  onSend,
}: {
  html: string;
  isFocused: boolean;
  onHtml: (html: string) => void;
  /** Ctrl+Enter. */
  onSend: () => void;
}) {
  const editor = useEditor({
    extensions: [StarterKit.configure({ heading: false, codeBlock: false, horizontalRule: false })],
    content: html,
    autofocus: isFocused ? 'start' : false,
    editorProps: {
      attributes: {
        role: 'textbox',
        'aria-multiline': 'true',
        'aria-label': composer.text,
        class:
          'min-h-32 outline-none [&_p]:mb-2 [&_ul]:list-disc [&_ol]:list-decimal [&_ul]:pl-5 [&_ol]:pl-5 [&_blockquote]:border-l-2 [&_blockquote]:border-line [&_blockquote]:pl-3',
      },
      handleKeyDown: (_, event) => {
        if (event.key !== 'Enter' || !(event.ctrlKey || event.metaKey)) return false;
        onSend();
        return true;
      },
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
      </div>
      <EditorContent editor={editor} className="min-h-0 grow overflow-y-auto py-2" />
    </div>
  );
}
