<?php

declare(strict_types=1);

// bin/sorvel bench engine, the part in the core: whole events through rulebooks, side by side in one process with the
// same logic written by hand in PHP. Both take the same values, read the same store, hold values to the same types and
// bounds, and must come to the same record: that is looked at before anything is measured.

use Sorvel\Core\Engine\CompiledRules;
use Sorvel\Core\Engine\Engine;
use Sorvel\Core\Engine\Event;
use Sorvel\Core\Engine\TraceLevel;
use Sorvel\Core\Format\RulebookBuilder;
use Sorvel\Core\Format\RulebookReader;
use Sorvel\Core\Model\InMemoryStore;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\Rulebook;
use Symfony\Component\Yaml\Yaml;

require dirname(__DIR__).'/vendor/autoload.php';

const AT = '2027-03-04T09:00:00+00:00';

$tree = Yaml::parseFile(dirname(__DIR__).'/demo/rulebook.yaml');
$demo = RulebookReader::read((string) file_get_contents(dirname(__DIR__).'/demo/rulebook.yaml'), 'rulebook.yaml');
CompiledRules::make($demo);

$store = new InMemoryStore;
foreach ([
    ['V1', 'vessel', ['name' => 'Alder Tern', 'superintendent' => 'ines', 'in_service' => true, 'berths' => 12, 'home_quay' => 'Q1']], ['Q1', 'quay', ['name' => 'Tolvane harbour', 'keeper' => 'greta']],
    ['C1', 'company', ['name' => 'Northlight']], ['K1', 'contact', ['name' => 'Night desk', 'company' => 'C1', 'role' => 'night', 'email' => 'night@northlight.example']],
    ['PF1', 'part_family', ['name' => 'Engines']], ['P1', 'part', ['name' => 'Gearbox 4', 'code' => 'GBX-4', 'family' => 'PF1', 'maker' => 'C1']],
] as [$id, $type, $values]) {
    $store->save(new Record($id, $type, $values));
}
$incoming = ['title' => 'Gearbox howls', 'vessel' => 'V1', 'impact' => 'sailing', 'hours_down' => 6, 'safety' => true, 'part_family' => 'PF1', 'part' => 'P1', 'details' => 'Since this morning'];

/**
 * The demo rulebook's fault, created: the same by hand, over the same records. It tells the same: the record, what changed
 * by which rule, and what is to be done; and it holds to what the rules say of texts, days of the desk's zone, people who
 * are there and addresses that are some.
 *
 * @return array{array<string, mixed>, list<array{field: string, before: mixed, after: mixed, rule: string|null}>, list<array{string, array<string, mixed>}>}
 */
function byHand(array $in, InMemoryStore $store): array
{
    static $fields = ['title' => 'text', 'vessel' => 'vessel', 'quay' => 'quay', 'impact' => ['nothing', 'comfort', 'boarding', 'sailing'], 'hours_down' => 'number', 'safety' => 'bool', 'part_family' => 'part_family', 'part' => 'part', 'details' => 'long', 'under_warranty' => 'bool', 'claim_number' => 'text', 'assignee' => 'person'];
    static $people = ['ines' => 'deck', 'rafi' => 'deck', 'greta' => 'shore'];
    static $order = ['routine' => 0, 'soon' => 1, 'urgent' => 2, 'sailing_at_risk' => 3];
    static $zone = new DateTimeZone('Europe/Lisbon');
    $changes = $actions = $f = [];
    $set = function (string $field, mixed $value, ?string $rule) use (&$f, &$changes): void {
        $was = $f[$field] ?? null;
        if ($was === $value) {
            return;
        }
        if ($value === null) {
            unset($f[$field]);
        } else {
            $f[$field] = $value;
        }
        $changes[] = ['field' => $field, 'before' => $was, 'after' => $value, 'rule' => $rule];
    };
    foreach ($in as $key => $value) {
        $type = $fields[$key] ?? throw new InvalidArgumentException("no field $key");
        $fits = match (true) {
            is_array($type) => in_array($value, $type, true),
            $type === 'text' => is_string($value) && mb_check_encoding($value, 'UTF-8') && mb_strlen($value) <= 500 && preg_match('~[\x00-\x08\x0A-\x1F]~', $value) !== 1,
            $type === 'long' => is_string($value) && mb_check_encoding($value, 'UTF-8') && mb_strlen($value) <= 200_000,
            $type === 'number' => is_numeric($value) && $value >= 0 && round($value, 1) == $value,
            $type === 'bool' => is_bool($value),
            $type === 'person' => isset($people[$value]),
            default => is_string($value) && $store->find($value)?->type === $type,
        };
        $fits || throw new InvalidArgumentException("$key does not fit");
    }
    ($in['title'] ?? '') !== '' || throw new InvalidArgumentException('title is missing');
    isset($in['claim_number']) && ($in['under_warranty'] ?? false) !== true && throw new InvalidArgumentException('no claim without warranty');
    $now = new DateTimeImmutable(AT);
    $today = $now->setTimezone($zone);
    $at = gmdate('Y-m-d\TH:i:s\Z', $now->getTimestamp());
    $set('state', 'logged', null);
    foreach ($in as $key => $value) {
        $set($key, $value, null);
    }
    $f += ['number' => 'F-1', 'created_by' => 'rafi', 'created_at' => $at, 'changed_at' => $at];
    $vessel = isset($f['vessel']) ? $store->find($f['vessel']) : null;
    $part = isset($f['part']) ? $store->find($f['part']) : null;
    if (isset($f['part_family'], $part) && $part->values['family'] !== $f['part_family']) {
        throw new InvalidArgumentException('not of this family');
    }
    // mirrors and derived fields
    $set('part_code', $part?->value('code'), null);
    isset($f['quay']) || $set('quay', $vessel?->value('home_quay'), null);
    $set('berths', $vessel?->value('berths'), null);
    $set('headline', $f['title'].($vessel === null ? '' : ', '.$vessel->value('name')), null);
    $set('maker', $part?->value('maker'), null);
    // rules, in their order
    $set('superintendent', $vessel?->value('superintendent'), 'carry_superintendent');
    $impact = $f['impact'] ?? null;
    $hours = $f['hours_down'] ?? null;
    $set('priority', match (true) {
        $impact === 'sailing' && $hours !== null && $hours > 4 => 'sailing_at_risk', $impact === 'sailing', $impact === 'boarding' => 'urgent', $impact === 'comfort' => $hours !== null && $hours >= 24 ? 'urgent' : 'soon', default => 'routine'
    }, 'rank_fault');
    if ($impact === 'sailing') {
        $set('tags', ['sailing'], 'rank_fault');
    } elseif ($impact === 'comfort' && $hours !== null && $hours >= 24) {
        $set('tags', ['long-wait'], 'rank_fault');
    }
    if (($f['safety'] ?? null) === true) {
        $order['urgent'] > $order[$f['priority']] && $set('priority', 'urgent', 'safety_is_urgent');
        in_array('safety', $f['tags'] ?? [], true) || $set('tags', [...$f['tags'] ?? [], 'safety'], 'safety_is_urgent');
    }
    isset($f['assignee']) || $set('assignee', $f['superintendent'] ?? (isset($f['quay']) ? $store->find($f['quay'])?->value('keeper') : null) ?? 'rafi', 'own_fault');
    $set('team', $people[$f['assignee']], 'team_of_assignee');
    if ($part !== null && $part->value('code') !== null) {
        $tag = trim((string) preg_replace('~[^\p{L}\p{N}]+~u', '-', mb_strtolower($part->value('code'))), '-');
        in_array($tag, $f['tags'] ?? [], true) || $set('tags', [...$f['tags'] ?? [], $tag], 'tag_part');
    }
    $set('progress', 0, 'fault_progress');
    if (in_array($today->format('l'), ['Saturday', 'Sunday'], true)) {
        $set('tags', [...$f['tags'] ?? [], 'weekend'], 'weekend_fault');
    }
    $days = ['sailing_at_risk' => 1, 'urgent' => 3, 'soon' => 14][$f['priority']] ?? null;
    if ($days !== null) {
        $set('mend_by', $today->modify("+$days days")->format('Y-m-d'), 'mend_by_priority');
        $set('repair_time', ['sailing_at_risk' => 'PT6H', 'urgent' => 'P1D'][$f['priority']] ?? null, 'mend_by_priority');
    }
    if ($part !== null && $vessel !== null) {
        $before = array_filter($store->matching('fault', []), fn (string $id): bool => $store->find($id)?->value('part') === $part->id && $store->find($id)?->value('vessel') === $vessel->id);
        if (count($before) >= 2) {
            $set('tags', [...$f['tags'] ?? [], 'again'], 'same_trouble');
            $actions[] = ['note', ['for' => 'staff', 'text' => 'again']];
        }
    }
    if ($f['priority'] === 'sailing_at_risk' && $vessel !== null) {
        $ashore = array_values(array_filter($store->matching('contact', []), fn (string $id): bool => $store->find($id)?->value('company') === $f['maker'] && $store->find($id)?->value('role') === 'night'));
        if (count($ashore) < 2) {
            $name = $vessel->value('name');
            str_ends_with($f['title'], " ($name)") || $set('title', $f['title']." ($name)", 'risk_is_told');
            isset($f['superintendent'], $people[$f['superintendent']]) && $actions[] = ['notify', ['people' => [$f['superintendent']], 'text' => "A sailing of $name is at risk: ".$f['title']]];
            $to = $ashore === [] ? null : $store->find($ashore[0])?->value('email');
            if ($to !== null && filter_var($to, FILTER_VALIDATE_EMAIL) !== false) {
                $actions[] = ['message', ['to' => [$to], 'subject' => trim((string) preg_replace('~\s+~u', ' ', "A sailing of $name is at risk")), 'body' => 'Please stand by for '.$part?->value('name').'.']];
            }
            $set('headline', $f['title'].($vessel === null ? '' : ', '.$name), null);
        }
    }
    if ($vessel !== null && in_array($f['state'], ['logged', 'under_way', 'waiting_for_parts'], true)) {
        if ($vessel->value('in_service') === false) {
            in_array('laid-up', $f['tags'] ?? [], true) || $set('tags', [...$f['tags'] ?? [], 'laid-up'], 'laid_up_is_marked');
        } elseif (in_array('laid-up', $f['tags'] ?? [], true)) {
            $set('tags', array_values(array_diff($f['tags'], ['laid-up'])), 'laid_up_is_marked');
        }
    }
    if (($f['under_warranty'] ?? false) === true && $part !== null) {
        $actions[] = ['create', ['type' => 'request', 'with' => ['title' => 'Claim '.$part->value('name')]]];
    }

    return [$f, $changes, $actions];
}

/** @param  Closure(): mixed  $one @return float microseconds of one, the best of seven parts */
function measure(Closure $one, int $rounds): float
{
    for ($i = 0; $i < 50; $i++) {
        $one();
    }
    $best = INF;
    for ($part = 0; $part < 7; $part++) {
        $begun = hrtime(true);
        for ($i = 0; $i < $rounds; $i++) {
            $one();
        }
        $best = min($best, (hrtime(true) - $begun) / $rounds / 1000);
    }

    return $best;
}

function line(string $what, string $figure, string $target, bool $met): void
{
    printf("%-66s %16s   target %-12s %s\n", $what, $figure, $target, $met ? 'met' : 'MISSED');
}

$engine = new Engine($demo);
$event = Event::created('fault', 'F-1', $incoming, 'rafi', AT);
$ours = $engine->handle($event, $store, TraceLevel::Outcome);
[$hand, $changes, $actions] = byHand($incoming, $store);
foreach (['record' => [Record::json($ours->record->values), $hand], 'changes' => [$ours->changes, $changes], 'actions' => [array_map(fn ($a): array => [$a->kind, $a->data], $ours->actions), $actions]] as $what => [$one, $other]) {
    $what === 'actions' || array_is_list($one) || ksort($one);
    array_is_list($other) || ksort($other);
    json_encode($one) === json_encode($other) || exit("The two do not come to the same $what:\n".json_encode($one)."\n".json_encode($other)."\n");
}
$told = $engine->handle($event, $store, TraceLevel::Full);
$looks = array_merge(...array_column($told->trace['passes'], 'rules'));
$told->changes === $changes && $told->problems === [] && count($looks) >= 13 || exit("In full it does not come to the same.\n");

echo "one event, a fault created, in microseconds\n\n";
$byHand = measure(fn (): array => byHand($incoming, $store), 2000);
$outcome = measure(fn () => $engine->handle($event, $store, TraceLevel::Outcome), 300);
$full = measure(fn () => $engine->handle($event, $store, TraceLevel::Full), 300);
printf("%-66s %16s\n", 'by hand', sprintf('%.1f µs', $byHand));
printf("%-66s %16s\n", sprintf('the demo rulebook (%d rules), outcome level: %.0f µs', count($demo->rules), $outcome), sprintf('%.1f times', $outcome / $byHand));
printf("%-66s %16s\n", sprintf('the demo rulebook, full trace: %.0f µs', $full), sprintf('%.1f times', $full / $byHand));

// 200 rules on one type, every tenth of which acts; by hand the same as PHP source
$type = ['key' => 'job', 'title' => 'Job', 'kind' => 'ticket', 'short' => 'J', 'states' => [['key' => 'new', 'label' => 'New', 'open' => true], ['key' => 'closed', 'label' => 'Closed', 'open' => false]], 'fields' => [['key' => 'title', 'label' => 'Title', 'type' => 'text'], ['key' => 'level', 'label' => 'Level', 'type' => 'choice', 'options' => [['key' => 'low', 'label' => 'Low'], ['key' => 'high', 'label' => 'High']]], ['key' => 'hours', 'label' => 'Hours', 'type' => 'number'], ['key' => 'never', 'label' => 'Never', 'type' => 'text']]];
$rules = [];
$source = '';
for ($i = 0; $i < 200; $i++) {
    $type['fields'][] = ['key' => 'n'.$i, 'label' => 'N'.$i, 'type' => 'number', 'min' => 0, 'max' => 1000];
    $least = $i % 10 === 0 ? 3 : 50;
    $rules[] = ['key' => 'r'.$i, 'title' => 'R'.$i, 'on' => 'job', 'starts' => ['created', ['changed' => ['level', 'hours']]], 'only_if' => 'state != "closed"', 'checks' => [['of' => 'level'], ['of' => 'hours']], 'changes' => [['set' => 'n'.$i]], 'rows' => [['if' => ['"low"', '-'], 'then' => ['1']], ['if' => ['"high"', '> '.$least], 'then' => ['hours * 2 + '.$i]]]];
    $source .= sprintf('if ($f["state"] !== "closed") { if ($f["level"] === "low") { $v = 1; } elseif ($f["level"] === "high" && $f["hours"] > %d) { $v = $f["hours"] * 2 + %d; } else { $v = null; } if ($v !== null && is_numeric($v) && $v >= 0 && $v <= 1000 && ($f["n%d"] ?? null) !== $v) { $f["n%d"] = $v; $changes[] = ["n%d", $v]; } }', $least, $i, $i, $i, $i);
}
$many = fn (array $rules): Rulebook => RulebookBuilder::build(['sorvel' => 1, 'desk' => 'many', 'title' => 'Many', 'timezone' => 'UTC', 'people' => [['key' => 'rafi', 'name' => 'Rafi']], 'teams' => [], 'types' => [$type], 'tables' => [], 'rules' => $rules]);
$two = $many($rules);
CompiledRules::make($two);
$values = ['title' => 'A', 'level' => 'high', 'hours' => 9];
$handRules = eval('return function (array $in): array { $f = ["number" => "J-1", "state" => "new"]; foreach ($in as $key => $value) { if (! match ($key) { "title" => is_string($value), "level" => in_array($value, ["low", "high"], true), "hours" => is_numeric($value), default => false }) { throw new InvalidArgumentException($key); } $f[$key] = $value; } $changes = []; '.$source.' return $f; };');
$engine2 = new Engine($two);
$event2 = Event::created('job', 'J-1', $values, 'rafi', AT);
$settled = Record::json($engine2->handle($event2, new InMemoryStore, TraceLevel::Outcome)->record->values);
foreach ($handRules($values) as $key => $value) {
    $settled[$key] === $value || exit("The two do not come to the same: $key.\n");
}
$empty = new InMemoryStore;
$byHand2 = measure(fn (): array => $handRules($values), 2000);
$outcome2 = measure(fn () => $engine2->handle($event2, $empty, TraceLevel::Outcome), 60);
$full2 = measure(fn () => $engine2->handle($event2, $empty, TraceLevel::Full), 60);
printf("%-66s %16s\n", '200 rules, by hand', sprintf('%.1f µs', $byHand2));
printf("%-66s %16s\n", sprintf('200 rules, outcome level: %.0f µs', $outcome2), sprintf('%.1f times', $outcome2 / $byHand2));
printf("%-66s %16s\n", sprintf('200 rules, full trace: %.0f µs', $full2), sprintf('%.1f times', $full2 / $byHand2));
foreach (['outcome level' => [4, $outcome / $byHand, $outcome2 / $byHand2], 'full trace' => [12, $full / $byHand, $full2 / $byHand2]] as $what => [$most, $one, $other]) {
    $median = ($one + $other) / 2;
    line("median ratio of the two, $what", sprintf('%.1f times', $median), "<= $most", $median <= $most);
}

// 1,000 further rules that cannot be due
$idle = [];
for ($i = 0; $i < 1000; $i++) {
    $idle[] = ['key' => 'idle'.$i, 'title' => 'Idle '.$i, 'on' => 'fault', 'starts' => [['changed' => ['claim_number']]], 'only_if' => 'state = "closed"', 'changes' => [['set' => 'claim_number']], 'rows' => [['if' => [], 'then' => ['"x"']]]];
}
$fat = RulebookBuilder::build([...$tree, 'rules' => [...$idle, ...$tree['rules']]]);
CompiledRules::make($fat);
$fatEngine = new Engine($fat);
$more = [];
for ($i = 0; $i < 5; $i++) {
    // in turn, so that a slow moment of the machine is nobody's
    $without = measure(fn () => $engine->handle($event, $store, TraceLevel::Outcome), 100);
    $with = measure(fn () => $fatEngine->handle($event, $store, TraceLevel::Outcome), 100);
    $more[] = ($with / $without - 1) * 100;
}
sort($more);
line('1,000 further rules that cannot be due add, median of five', sprintf('%+.1f %%', $more[2]), '<= 10 %', $more[2] <= 10);
