<?php

declare(strict_types=1);

namespace Sorvel\App\Draft;

use Psr\Clock\ClockInterface;
use Sorvel\App\Access\CurrentPerson;
use Sorvel\App\Desk\Desk;
use Sorvel\App\Desk\DoctrineStore;
use Sorvel\App\Desk\Records;
use Sorvel\App\Http\Body;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Sorvel\Core\Engine\Cascade;
use Sorvel\Core\Engine\Event;
use Sorvel\Core\Engine\EventScope;
use Sorvel\Core\Engine\LookScope;
use Sorvel\Core\Engine\OverlayStore;
use Sorvel\Core\Engine\SkipRule;
use Sorvel\Core\Engine\TraceLevel;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Model\Viewer;
use Sorvel\Core\Rule\AtStart;
use Sorvel\Core\Rule\Criteria;
use Sorvel\Core\Rule\LookUp;
use Sorvel\Core\Rule\Rule;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

/** A rule of the draft, also as it is being typed, held against the live records. Saves nothing. */
#[IsGranted(Role::BUILDER)]
final class RuleTrialController
{
    /** So many records are looked at, and so long, before it is only said that there are more. */
    private const MOST_LOOKED_AT = 20_000;

    private const MOST_SECONDS = 1.5;

    private const SHOWN = 20;

    public function __construct(private readonly Draft $draft, private readonly Desk $desk, private readonly Records $records, private readonly ClockInterface $clock, private readonly CurrentPerson $person)
    {
    }

    /** Which live records meet the filter of the rule's schedule and its condition now. */
    #[Route('/api/rules/fit', methods: ['POST'])]
    public function fit(Request $request): JsonResponse
    {
        [$rulebook, $rule] = $this->rule(Body::of($request));
        $begun = microtime(true);
        $store = $this->store($rulebook);
        $viewer = new Viewer($rulebook, $store);
        [$found, $looked, $isWhole] = [[], 0, true];
        $count = 0;
        $readsAll = false;
        foreach ($rule->on as $type) {
            $of = $rulebook->types[$type];
            $event = Event::changed($type, '', [], $this->person->key(), $this->clock->now()->format(\DATE_ATOM));
            $blank = new EventScope($event, $of, null, new Record('', $type, []), $viewer);
            $filters = array_values(array_filter($rule->starts, fn ($s): bool => $s instanceof AtStart));
            $criteria = Criteria::of($rule->onlyIf, $of);
            $conditions = $criteria->conditions($blank, $viewer);
            if (count($filters) === count($rule->starts) && count($filters) === 1) {
                $more = ($filters[0]->criteria[$type] ?? null)?->conditions($blank, $viewer);
                $conditions = $conditions === null || ($more === null && isset($filters[0]->criteria[$type])) ? null : [...$conditions, ...$more ?? []];
            }
            $readsAll = $readsAll || $conditions === [];
            $ids = $conditions === null ? [] : $this->records->matching($type, $conditions, self::MOST_LOOKED_AT + 1);
            foreach (array_chunk(array_slice($ids, 0, self::MOST_LOOKED_AT), 500) as $chunk) {
                if (microtime(true) - $begun > self::MOST_SECONDS) {
                    $isWhole = false;
                    break;
                }
                foreach ($store->peek($chunk) as $record) {
                    $looked++;
                    if ($this->fits($rule, $filters, new EventScope($event, $of, $record, $record, $viewer), $viewer)) {
                        $count++;
                        if (count($found) < self::SHOWN) {
                            $found[] = ['id' => $record->id, 'name' => $of->nameOf($record), 'type' => $type];
                        }
                    }
                }
            }
            $isWhole = $isWhole && count($ids) <= self::MOST_LOOKED_AT;
        }

        return new JsonResponse(['count' => $count, 'looked' => $looked, 'whole' => $isWhole, 'reads_all' => $readsAll, 'scans' => array_values(array_map(fn (LookUp $l): string => $l->name, array_filter($rule->lookUps, fn (LookUp $l): bool => $l->type !== null && $l->criteria->readsAll()))), 'records' => $found, 'ms' => round((microtime(true) - $begun) * 1000, 1)]);
    }

    /** @param  list<AtStart>  $filters */
    private function fits(Rule $rule, array $filters, EventScope $scope, Viewer $viewer): bool
    {
        $isFor = $filters === [] || count($filters) < count($rule->starts);
        foreach ($filters as $start) {
            $isFor = $isFor || $start->for === null || $start->for->value($scope, new Warnings) === true;
        }
        try {
            return $isFor && ($rule->onlyIf === null || $rule->onlyIf->value(new LookScope($rule, $scope, $viewer), new Warnings) === true);
        } catch (SkipRule) {
            return false;
        } finally {
            $viewer->reads->take();
        }
    }

    /** The whole draft on a live record, as if it had just been created, or as if a field had changed. */
    #[Route('/api/rules/try', methods: ['POST'])]
    public function try(Request $request): JsonResponse
    {
        $body = Body::of($request);
        [$rulebook, $rule] = $this->rule($body);
        $id = $body->text('record');
        $store = $this->store($rulebook);
        $record = $store->find($id) ?? throw new Problem(422, 'It cannot be tried on this record.', '', [['pointer' => '/record', 'detail' => sprintf('There is no record "%s".', mb_strimwidth($id, 0, 40, '…'))]]);
        $type = $rulebook->types[$record->type];
        if (! in_array($record->type, $rule->on, true)) {
            throw new Problem(422, 'It cannot be tried on this record.', '', [['pointer' => '/record', 'detail' => sprintf('The rule does not run on a %s.', mb_strtolower($type->title))]]);
        }
        $overlay = new OverlayStore($store);
        $at = $this->clock->now()->format(\DATE_ATOM);
        $field = $body->textOrNull('changed');
        if ($field === null) {
            $values = [];
            foreach ($type->fields as $key => $of) {
                if (! $of->fixed && $record->value($key) !== null) {
                    $values[$key] = Record::plain($record->value($key));
                }
            }
            // as the desk itself would have it: what people may not set is taken as it is
            $overlay->delete($id);
            $event = Event::created($type->key, $id, $values, null, $at);
        } else {
            $of = $type->fields[$field] ?? null;
            if ($of === null || $of->fixed) {
                throw new Problem(422, 'It cannot be tried so.', '', [['pointer' => '/changed', 'detail' => sprintf('%s has no field "%s" that could change.', $type->title, mb_strimwidth($field, 0, 40, '…'))]]);
            }
            $overlay->save($record->with($field, null));
            $event = Event::changed($type->key, $id, [$field => Record::plain($record->value($field))], null, $at);
        }
        $outcomes = (new Cascade($rulebook))->run($event, $overlay, TraceLevel::Full);
        $outcome = $outcomes[0];
        $looks = [];
        foreach (is_array($outcome->trace['passes'] ?? null) ? $outcome->trace['passes'] : [] as $pass) {
            array_push($looks, ...array_values(array_filter($pass['rules'], fn (array $l): bool => $l['rule'] === $rule->key)));
        }

        return new JsonResponse([
            'record' => $id, 'status' => $outcome->rules()[$rule->key]->value ?? null, 'trace' => $outcome->trace, 'look' => $looks === [] ? null : $looks[count($looks) - 1],
            'others' => array_map(fn ($o): array => ['record' => $o->record->id, 'type' => $o->record->type, 'created' => $o->before === null, 'changes' => $o->changes], array_slice($outcomes, 1, 50)),
            'refused' => $outcome->refused, 'problems' => $outcome->problems, 'names' => (object) $this->desk->names([$outcome->trace]),
        ]);
    }

    /** @return array{Rulebook, Rule} */
    private function rule(Body $body): array
    {
        $key = $body->text('key');
        $tree = $body->mapOrNull('tree');
        $rulebook = $tree === null ? $this->draft->rulebook() : $this->draft->rulebookWith(PartKind::Rules, $key, $tree);

        return [$rulebook, $rulebook->rules[$key] ?? throw new Problem(404, sprintf('There is no rule "%s".', mb_strimwidth($key, 0, 40, '…')))];
    }

    /** The live records, seen with the draft's fields. */
    private function store(Rulebook $rulebook): DoctrineStore
    {
        return new DoctrineStore($this->records, $rulebook, $this->clock->now(), writes: false);
    }
}
