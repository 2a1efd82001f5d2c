import { Extension } from '@tiptap/react';
import { Plugin } from '@tiptap/pm/state';
import { Decoration, DecorationSet } from '@tiptap/pm/view';

const FIELD = /\{\{[^{}]+\}\}/g;

/** Merge fields that are not filled stand out in the text; where an email is to be sent, they are asked for. */
export const FieldMarks = Extension.create({
  name: 'fieldMarks',
  addProseMirrorPlugins: () => [
    new Plugin({
      props: {
        decorations: ({ doc }) => {
          const marks: Decoration[] = [];
          doc.descendants((node, position) => {
            for (const match of node.text?.matchAll(FIELD) ?? [])
              marks.push(
                Decoration.inline(position + match.index, position + match.index + match[0].length, {
                  class: 'rounded bg-ochre/20 px-0.5 text-ochre',
                }),
              );
          });
          return DecorationSet.create(doc, marks);
        },
      },
    }),
  ],
});
