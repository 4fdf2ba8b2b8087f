import type { Probe } from '../api/client';
import type { Lexicon } from '../app/lexicon';

/** What a name is, in a line: its label, its type, and what it came to in the sample in hand. */
export function sayProbe(name: string, probe: Probe, lexicon: Lexicon): string | null {
  if (probe.type === null) return null;
  const [type = '', key = ''] = (probe.field ?? '').split('.');
  const field = probe.field ? lexicon.field(type, key) : undefined;
  const kind = field && probe.type.includes('option of') ? 'one option' : probe.type;
  const value = probe.known ? `: ${field ? lexicon.say(probe.value, field) : lexicon.guess(probe.value)}` : '';
  return `${field ? `${field.label} · ` : `${name} · `}${kind}${value}`;
}
