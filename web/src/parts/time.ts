/** Moments as a clock of the desk shows them, and durations as people write them. */

/** 2027-03-04T09:00:00Z on the desk's clock, as a field for date and time wants it: 2027-03-04T09:00. */
export function toLocal(iso: string, zone: string): string {
  const at = new Date(/Z|[+-]\d{2}:\d{2}$/.test(iso) ? iso : `${iso}Z`);
  if (Number.isNaN(at.getTime())) return '';
  // a moment without zone is on the desk's clock already
  const timeZone = /Z|[+-]\d{2}:\d{2}$/.test(iso) ? zone : 'UTC';
  const parts = new Intl.DateTimeFormat('en-CA', {
    timeZone,
    hourCycle: 'h23',
    year: 'numeric',
    month: '2-digit',
    day: '2-digit',
    hour: '2-digit',
    minute: '2-digit',
  }).formatToParts(at);
  const part = (type: string) => parts.find((p) => p.type === type)?.value ?? '';
  return `${part('year')}-${part('month')}-${part('day')}T${part('hour')}:${part('minute')}`;
}

const day = new Intl.DateTimeFormat('en-GB', {
  weekday: 'short',
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  timeZone: 'UTC',
});

export function sayDate(iso: string): string {
  const at = new Date(`${iso}T00:00:00Z`);
  return Number.isNaN(at.getTime()) ? iso : day.format(at).replace(',', '');
}

export function sayMoment(iso: string, zone: string): string {
  const local = toLocal(iso, zone);
  return local === '' ? iso : `${sayDate(local.slice(0, 10))}, ${local.slice(11)}`;
}

const UNITS: [RegExp, string, boolean][] = [
  [/^(y|year|years)$/, 'Y', false],
  [/^(mo|month|months)$/, 'M', false],
  [/^(d|day|days)$/, 'D', false],
  [/^(h|hour|hours)$/, 'H', true],
  [/^(m|min|minute|minutes)$/, 'M', true],
  [/^(s|sec|second|seconds)$/, 'S', true],
];

/** "1 d 12 h" or "90 min" as ISO 8601; what is ISO 8601 already stays; what is neither stays too, and the server says so. */
export function readDuration(text: string): string {
  const words = text.trim().toLowerCase();
  const parts = [...words.matchAll(/(\d+(?:[.,]\d+)?)\s*([a-z]+)/g)];
  if (
    parts.length === 0 ||
    parts
      .map((p) => p[0])
      .join('')
      .replace(/\s/g, '') !== words.replace(/\s/g, '')
  )
    return text.trim();
  let date = '';
  let time = '';
  for (const [, amount = '', unit = ''] of parts) {
    const found = UNITS.find(([pattern]) => pattern.test(unit));
    if (!found) return text.trim();
    if (found[2]) time += amount.replace(',', '.') + found[1];
    else date += amount + found[1];
  }
  return `P${date}${time === '' ? '' : `T${time}`}`;
}

export function sayDuration(iso: string): string {
  const match = /^(-?)P(?:(\d+)Y)?(?:(\d+)M)?(?:(\d+)D)?(?:T(?:(\d+)H)?(?:(\d+)M)?(?:([\d.]+)S)?)?$/.exec(iso);
  if (!match) return iso;
  const [, minus = '', ...amounts] = match;
  const words = ['y', 'mo', 'd', 'h', 'min', 's'].flatMap((unit, i) => (amounts[i] ? [`${amounts[i]} ${unit}`] : []));
  return words.length === 0 ? '0 d' : `${minus === '-' ? '−' : ''}${words.join(' ')}`;
}
