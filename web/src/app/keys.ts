import { useEffect, useRef } from 'react';

const typing = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  (target.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName));

/** Keys for the whole page; those without Ctrl rest while something is being typed. */
export function useKeys(bindings: Record<string, (event: KeyboardEvent) => void>): void {
  const current = useRef(bindings);
  current.current = bindings;
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (event.defaultPrevented || event.altKey) return;
      const ctrl = event.ctrlKey || event.metaKey;
      if (!ctrl && typing(event.target)) return;
      const name = `${ctrl ? 'Ctrl+' : ''}${ctrl && event.shiftKey ? 'Shift+' : ''}${event.key.length === 1 && ctrl ? event.key.toLowerCase() : event.key}`;
      const act = current.current[name];
      if (act) {
        event.preventDefault();
        act(event);
      }
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, []);
}
