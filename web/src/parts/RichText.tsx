import { useEffect, useRef } from 'react';

/** Marked-up text as the server keeps it: it takes out all but plain marks, whoever writes. */
export function RichText({ html }: { html: string }) {
  return <div className="rich" dangerouslySetInnerHTML={{ __html: html }} />;
}

const MARKS: [string, string, string][] = [
  ['bold', 'B', 'Bold (Ctrl B)'],
  ['italic', 'I', 'Italic (Ctrl I)'],
  ['insertUnorderedList', '• list', 'List with points'],
  ['insertOrderedList', '1. list', 'List with numbers'],
];

interface Props {
  html: string;
  label: string;
  invalid?: boolean;
  onChange: (html: string | null) => void;
}

/** A field for marked-up text. What is pasted comes in as plain text. */
export function RichTextEditor({ html, label, invalid, onChange }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const written = useRef<string | null>(null);
  useEffect(() => {
    // what was typed here comes back; only a text from elsewhere is put in
    if (box.current && html !== written.current) box.current.innerHTML = html;
    written.current = html;
  }, [html]);
  const tell = () => {
    const text = box.current?.innerHTML ?? '';
    const isEmpty = (box.current?.textContent ?? '').trim() === '';
    written.current = isEmpty ? '' : text;
    onChange(isEmpty ? null : text);
  };
  const mark = (command: string) => {
    box.current?.focus();
    document.execCommand(command);
    tell();
  };
  return (
    <div className="field w-full p-0!" aria-invalid={invalid ?? false}>
      <div className="flex gap-1 border-b border-line px-1" role="toolbar" aria-label={`Marks of ${label}`}>
        {MARKS.map(([command, sign, words]) => (
          <button
            key={command}
            type="button"
            className="soft px-1.5 hover:text-ink"
            title={words}
            aria-label={words}
            onMouseDown={(event) => event.preventDefault()}
            onClick={() => mark(command)}
          >
            {sign}
          </button>
        ))}
      </div>
      <div
        ref={box}
        className="rich min-h-[84px] px-2 py-1 outline-none"
        contentEditable
        suppressContentEditableWarning
        role="textbox"
        tabIndex={0}
        aria-multiline="true"
        aria-label={label}
        onInput={tell}
        onPaste={(event) => {
          event.preventDefault();
          document.execCommand('insertText', false, event.clipboardData.getData('text/plain'));
        }}
      />
    </div>
  );
}
