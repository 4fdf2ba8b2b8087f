import { history, historyKeymap, standardKeymap } from '@codemirror/commands';
import { bracketMatching } from '@codemirror/language';
import { type Diagnostic, setDiagnostics } from '@codemirror/lint';
import { Compartment, EditorState, Prec } from '@codemirror/state';
import { EditorView, hoverTooltip, keymap, placeholder as placeholderOf, tooltips } from '@codemirror/view';
import { type Ref, useEffect, useImperativeHandle, useRef } from 'react';
import type { InputError } from '../api/client';
import { type Dialect, language, nameAt, placeOf } from './feel';

export interface EditorHandle {
  set: (text: string, caret: number) => void;
  focus: () => void;
  blur: () => void;
}

interface Props {
  /** What stands there at first; from then on the text is the editor's own, and set through its handle. */
  text: string;
  dialect: Dialect;
  label: string;
  placeholder?: string | undefined;
  mistake?: InputError | undefined;
  /** Where the caret stands at first: at the end, or all is selected; without it the editor waits to be entered. */
  enter?: 'end' | 'all' | undefined;
  /** The list of proposals that belongs to it, for screen readers. */
  list?: { id: string; open: boolean; active: string | undefined } | undefined;
  test?: string | undefined;
  /** What a name stands for, in words. */
  tell?: ((name: string) => Promise<string | null>) | undefined;
  onText: (text: string, caret: number) => void;
  onCaret: (caret: number) => void;
  /** Whether the key was taken. */
  onKey: (event: KeyboardEvent) => boolean;
  onFocus?: () => void;
  onBlur: () => void;
  ref?: Ref<EditorHandle>;
}

function attributes(props: Props): Record<string, string> {
  const { list } = props;
  return {
    'aria-label': props.label,
    'aria-invalid': String(props.mistake !== undefined),
    role: 'combobox',
    'aria-autocomplete': 'list',
    'aria-expanded': String(list?.open ?? false),
    ...(list?.open ? { 'aria-controls': list.id } : {}),
    ...(list?.active ? { 'aria-activedescendant': list.active } : {}),
    'aria-multiline': 'false',
    spellcheck: 'false',
    ...(props.test ? { 'data-test': props.test } : {}),
  };
}

function marks(text: string, mistake: string): Diagnostic[] {
  if (mistake === '' || text === '') return [];
  const { from, to, detail } = JSON.parse(mistake) as InputError;
  // nothing stands at the end, so the last letter carries the mark
  const start = Math.min(from == null ? 0 : placeOf(text, from), text.length - 1);
  const end = Math.min(to == null ? text.length : placeOf(text, to), text.length);
  return [{ from: start, to: Math.max(start + 1, end), severity: 'error', message: detail }];
}

/** As an element: given as a text it would be told twice, and in a way that editors with proposals may not use. */
function hint(words: string): HTMLElement {
  const span = document.createElement('span');
  span.textContent = words;
  return span;
}

/** The text of a formula, with its colours, its mistake underlined and a word about the name under the pointer. */
export function FormulaEditor(props: Props) {
  const host = useRef<HTMLSpanElement>(null);
  const view = useRef<EditorView | null>(null);
  const now = useRef(props);
  now.current = props;
  const dressing = useRef(new Compartment());
  // while the text is being set from outside, nobody is typing
  const setting = useRef(false);

  useEffect(() => {
    if (!host.current) return;
    const { text, dialect, placeholder, enter } = now.current;
    const editor = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: text,
        selection: enter === 'all' ? { anchor: 0, head: text.length } : { anchor: text.length },
        extensions: [
          Prec.highest(EditorView.domEventHandlers({ keydown: (event) => now.current.onKey(event) })),
          history(),
          keymap.of([
            {
              key: 'Shift-Enter',
              run: (v) => {
                v.dispatch(v.state.replaceSelection('\n'));
                return true;
              },
            },
            ...historyKeymap,
            ...standardKeymap.filter((binding) => binding.key !== 'Enter'),
          ]),
          language(dialect),
          bracketMatching(),
          EditorView.lineWrapping,
          placeholder ? placeholderOf(() => hint(placeholder)) : [],
          tooltips({ parent: document.body, position: 'fixed' }),
          hoverTooltip(
            async (v, at) => {
              const source = v.state.doc.toString();
              const name = nameAt(source, at, now.current.dialect);
              const words = name && (await now.current.tell?.(name.source));
              if (!name || !words) return null;
              return {
                pos: name.from,
                end: name.to,
                above: true,
                create: () => {
                  const dom = document.createElement('div');
                  dom.className = 'feel-hover';
                  dom.textContent = words;
                  return { dom };
                },
              };
            },
            { hoverTime: 250 },
          ),
          dressing.current.of(EditorView.contentAttributes.of(attributes(now.current))),
          EditorView.updateListener.of((update) => {
            const caret = update.state.selection.main.head;
            if (setting.current) return;
            if (update.docChanged) now.current.onText(update.state.doc.toString(), caret);
            else if (update.selectionSet) now.current.onCaret(caret);
          }),
          EditorView.domEventHandlers({
            focus: () => now.current.onFocus?.(),
            blur: () => now.current.onBlur(),
          }),
        ],
      }),
    });
    view.current = editor;
    if (enter) editor.focus();
    return () => editor.destroy();
  }, []);

  const replace = (text: string, caret: number) => {
    const editor = view.current;
    if (!editor || (editor.state.doc.toString() === text && editor.state.selection.main.head === caret)) return;
    setting.current = true;
    editor.dispatch({
      changes: { from: 0, to: editor.state.doc.length, insert: text },
      selection: { anchor: Math.min(caret, text.length) },
    });
    setting.current = false;
  };
  useImperativeHandle(props.ref, () => ({
    set: replace,
    focus: () => view.current?.focus(),
    blur: () => view.current?.contentDOM.blur(),
  }));

  const dress = JSON.stringify(attributes(props));
  useEffect(() => {
    view.current?.dispatch({
      effects: dressing.current.reconfigure(EditorView.contentAttributes.of(JSON.parse(dress))),
    });
  }, [dress]);
  // the editor moves its marks along with the text, so only another mistake is news
  const mistake = props.mistake ? JSON.stringify(props.mistake) : '';
  useEffect(() => {
    const editor = view.current;
    if (editor) editor.dispatch(setDiagnostics(editor.state, marks(editor.state.doc.toString(), mistake)));
  }, [mistake]);

  return <span ref={host} className="feel" data-invalid={props.mistake !== undefined} />;
}
