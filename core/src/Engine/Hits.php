<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Rule\Rule;

/** How far the rules got that an event made due, the rows that it hit and the check cells that it saw, told apart only when somebody asks. */
final class Hits
{
    /** @var array{array<string, array<int, int>>, array<string, array<int, array<int, int>>>}|null */
    private ?array $told = null;

    /** @var array<string, RuleStatus>|null */
    private ?array $statuses = null;

    /**
     * @param  list<Rule>  $all  of the type
     * @param  array<string, RuleStatus>  $rules  as far as it does not follow from the ways
     * @param  array<string, array<int, int>>  $rows  of rules that were walked
     * @param  array<string, array<int, array<int, int>>>  $cells  of rules that were walked
     * @param  array<int, int>  $ways  by place of a compiled rule, the way of its first look, {@see Ways::path}
     * @param  list<array{int, int}>  $more  place and way of further looks
     * @param  list<array{field: string, before: mixed, after: mixed, rule: string|null}>  $changes
     * @param  int  $from  how many of them there were before the first rule looked
     */
    public function __construct(
        private readonly array $all,
        private readonly array $rules,
        private readonly array $rows,
        private readonly array $cells,
        private readonly array $ways,
        private readonly array $more,
        private readonly array $changes,
        private readonly int $from,
    ) {
    }

    /** @return array<string, RuleStatus> by key, rules that were due, in running order */
    public function rules(): array
    {
        if ($this->statuses !== null) {
            return $this->statuses;
        }
        $acted = [];
        for ($i = $this->from, $made = count($this->changes); $i < $made; $i++) {
            $acted[(string) $this->changes[$i]['rule']] = true;
        }
        $found = $this->rules;
        foreach ($this->ways as $place => $way) {
            $this->add($found, $place, $way, $acted);
        }
        foreach ($this->more as [$place, $way]) {
            $this->add($found, $place, $way, $acted);
        }
        $statuses = [];
        foreach ($found === [] ? [] : $this->all as $rule) {
            if (isset($found[$rule->key])) {
                $statuses[$rule->key] = $found[$rule->key];
            }
        }

        return $this->statuses = $statuses;
    }

    /**
     * @param  array<string, RuleStatus>  $found
     * @param  array<string, true>  $acted  rules that changed something
     */
    private function add(array &$found, int $place, int $way, array $acted): void
    {
        $rule = $this->all[$place];
        $status = $way === 0 || ! Ways::fits($rule, $way) ? RuleStatus::Looked : (isset($acted[$rule->key]) ? RuleStatus::Acted : RuleStatus::NoEffect);
        $found[$rule->key] = isset($found[$rule->key]) ? $found[$rule->key]->and($status) : $status;
    }

    /** @return array<string, array<int, int>> by rule, row to how often it was hit */
    public function rows(): array
    {
        return $this->told()[0];
    }

    /** @return array<string, array<int, array<int, int>>> by rule, row and column: 1 seen holding, 2 seen failing, 3 both */
    public function cells(): array
    {
        return $this->told()[1];
    }

    /**
     * How often each way was taken through the rows of a compiled rule, to be told apart by {@see Ways::path}.
     *
     * @param  array<string, array<int, int>>  $counts  by rule and way, which are added to
     * @param  array<string, Rule>  $rules  those of them, by key
     */
    public function count(array &$counts, array &$rules): void
    {
        foreach ($this->ways as $place => $way) {
            $key = $this->all[$place]->key;
            $rules[$key] = $this->all[$place];
            $counts[$key][$way] = ($counts[$key][$way] ?? 0) + 1;
        }
        foreach ($this->more as [$place, $way]) {
            $key = $this->all[$place]->key;
            $counts[$key][$way] = ($counts[$key][$way] ?? 0) + 1;
        }
    }

    /** @return array{array<string, array<int, int>>, array<string, array<int, array<int, int>>>} rows and cells of rules that were walked, as {@see rows} and {@see cells} */
    public function walked(): array
    {
        return [$this->rows, $this->cells];
    }

    /** @return array{array<string, array<int, int>>, array<string, array<int, array<int, int>>>} */
    private function told(): array
    {
        if ($this->told !== null) {
            return $this->told;
        }
        $counts = $rules = [];
        $this->count($counts, $rules);

        return $this->told = Ways::told($counts, $rules, $this->rows, $this->cells);
    }
}
