<?php

declare(strict_types=1);

namespace Sorvel\Core\Format;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\UnaryTests;
use Sorvel\Core\Feel\Values;
use Sorvel\Core\Finding\FormulaCheck;
use Sorvel\Core\Finding\KnownType;
use Sorvel\Core\Finding\Names;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Table\HitPolicy;
use Sorvel\Core\Table\Input;
use Sorvel\Core\Table\Output;
use Sorvel\Core\Table\Row;
use Sorvel\Core\Table\Table;

/** Decision tables. */
final class TableBuilder
{
    public function __construct(private readonly RulebookBuilder $book, private readonly Names $names)
    {
    }

    /** @param  array<string, mixed>  $t */
    public function table(array $t, string $path): Table
    {
        $hit = HitPolicy::from($t['hit'] ?? 'unique');
        $inputs = [];
        $known = [];
        $names = $this->names;
        foreach ($t['inputs'] as $i => $input) {
            $field = isset($input['field']) ? $this->field($input['field'], $path.'/inputs/'.$i.'/field') : null;
            $known[$i] = $field === null ? KnownType::any() : KnownType::ofField($field, $this->names->types);
            $names = $names->with($input['key'], $known[$i]);
            $inputs[] = new Input($input['key'], $input['label'] ?? $input['key'], $field);
        }
        $this->distinct($t['inputs'], $path.'/inputs', 'an input');
        $this->distinct($t['outputs'], $path.'/outputs', 'an output');
        $outputs = [];
        $fields = [];
        $must = [];
        foreach ($t['outputs'] as $i => $output) {
            $fields[$i] = isset($output['field']) ? $this->field($output['field'], $path.'/outputs/'.$i.'/field') : null;
            $must[$i] = isset($output['type']) ? new KnownType($output['type']) : null;
            $values = array_values(array_map(Values::fromJson(...), $output['values'] ?? []));
            if ($hit->needsOrder() && $values === []) {
                $this->book->error($path.'/outputs/'.$i, sprintf('The hit policy "%s" needs "values": what the output can be, highest first.', $hit->value));
            }
            foreach ($values as $v => $value) {
                if (is_string($value) && isset($fields[$i]->options[$value])) {
                    $this->book->mention($path.'/outputs/'.$i.'/values/'.$v, $fields[$i], $value);
                }
            }
            $outputs[] = new Output($output['key'], $output['label'] ?? $output['key'], $values, $fields[$i], $output['type'] ?? null);
        }
        if (str_starts_with($hit->value, 'collect ') && $hit !== HitPolicy::CollectCount && count($outputs) > 1) {
            $this->book->error($path.'/hit', sprintf('"%s" needs a table with one output.', $hit->value));
        }
        $rows = [];
        foreach ($t['rows'] as $r => $row) {
            $if = $this->counted($row['if'], count($inputs), $path.'/rows/'.$r.'/if', 'inputs');
            $tests = [];
            foreach ($if as $i => $cell) {
                $test = $this->book->tests($path.'/rows/'.$r.'/if/'.$i, $cell);
                if ($test !== null) {
                    $this->book->take($path.'/rows/'.$r.'/if/'.$i, FormulaCheck::tests($test, $known[$i], $names));
                }
                $tests[] = $test ?? UnaryTests::parse('-');
            }
            $then = $this->outputs($this->counted($row['then'], count($outputs), $path.'/rows/'.$r.'/then', 'outputs'), $path.'/rows/'.$r.'/then', $names, $fields, $must);
            $rows[] = new Row($tests, $then);
        }
        $default = isset($t['default']) ? $this->outputs($this->counted($t['default'], count($outputs), $path.'/default', 'outputs'), $path.'/default', $names, $fields, $must) : [];

        return new Table($t['key'], $t['title'], $inputs, $outputs, $hit, $rows, $default);
    }

    /**
     * @param  list<mixed>  $cells
     * @param  array<int, Field|null>  $fields
     * @param  array<int, KnownType|null>  $must
     * @return list<Formula|null>
     */
    private function outputs(array $cells, string $path, Names $names, array $fields, array $must): array
    {
        $formulas = [];
        foreach ($cells as $i => $cell) {
            $formula = RulebookBuilder::text($cell) === '-' ? null : $this->book->formula($path.'/'.$i, $cell);
            if ($formula !== null) {
                $field = $fields[$i] ?? null;
                $this->book->take($path.'/'.$i, $field !== null ? FormulaCheck::value($formula, $field, $names) : FormulaCheck::formula($formula, $names, $must[$i] ?? null));
            }
            $formulas[] = $formula;
        }

        return $formulas;
    }

    /**
     * @param  list<mixed>  $cells
     * @return list<mixed>
     */
    private function counted(array $cells, int $count, string $path, string $what): array
    {
        if (count($cells) !== $count) {
            $this->book->error($path, sprintf('%d cells for %d %s.', count($cells), $count, $what));
        }

        return array_slice(array_pad($cells, $count, '-'), 0, $count);
    }

    /** @param  list<array<string, mixed>>  $list */
    private function distinct(array $list, string $path, string $what): void
    {
        $seen = [];
        foreach ($list as $i => $entry) {
            if ($this->book->isNew($path.'/'.$i, $entry['key'], $seen, $what)) {
                $seen[$entry['key']] = true;
            }
        }
    }

    private function field(string $name, string $path): ?Field
    {
        [$type, $key] = explode('.', $name);
        $field = ($this->names->types[$type] ?? null)?->fields[$key] ?? null;
        if ($field === null) {
            $this->book->error($path, sprintf('There is no field "%s".', $name));
        } else {
            $this->book->mention($path, $field);
        }

        return $field;
    }
}
