import type { RuleTrace } from '../api/client';
import type { Lexicon } from './lexicon';
import { saySchedule } from './sentence';

/** Why a rule was due, in words. */
export function sayWhy(why: RuleTrace['why'], type: string, lexicon: Lexicon): string {
  const field = lexicon.field(type, why.field ?? '');
  switch (why.kind) {
    case 'created':
      return 'the record was created';
    case 'deleted':
      return 'the record is deleted';
    case 'received':
      return `a message came in from ${String(why.from ?? '')}`;
    case 'answered':
      return why.status === null || why.status === undefined
        ? `nobody answered the call “${why.call}”`
        : `the call “${why.call}” came back with ${why.status}`;
    case 'at':
      return `the time came: ${saySchedule(why.cron ?? '')}`;
    case 'by_hand':
      return `${lexicon.person(why.by)} started it by hand`;
    case 'related': {
      const to = lexicon.field(type, why.via ?? '')?.to ?? '';
      const fields = (why.fields ?? []).map((key) => lexicon.label(to, key).toLowerCase());
      return `${fields.join(', ')} of ${lexicon.guess(why.record ?? '')} changed`;
    }
  }
  return `${(field?.label ?? why.field ?? '').toLowerCase()} ${lexicon.say(why.from, field)} → ${lexicon.say(why.to, field)}`;
}
