<?php

declare(strict_types=1);

namespace Sorvel\App\Draft;

use Psr\Clock\ClockInterface;
use Sorvel\App\Http\Body;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Sorvel\Core\Engine\TraceLevel;
use Sorvel\Core\Feel\ConditionLines;
use Sorvel\Core\Feel\Examples;
use Sorvel\Core\Feel\FeelError;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Functions;
use Sorvel\Core\Feel\FunctionValue;
use Sorvel\Core\Feel\Json;
use Sorvel\Core\Feel\MapScope;
use Sorvel\Core\Feel\Temporal\DateTime;
use Sorvel\Core\Feel\TextParts;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Finding\FormulaCheck;
use Sorvel\Core\Finding\Names;
use Sorvel\Core\Format\RulebookBuilder;
use Sorvel\Core\Replay\SampleRunner;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

/** What helps while a formula is written. Saves nothing. */
#[IsGranted(Role::BUILDER)]
final class FormulaController
{
    private const MOST_PROBES = 200;

    public function __construct(private readonly Draft $draft, private readonly ClockInterface $clock)
    {
    }

    #[Route('/api/functions', methods: ['GET'])]
    public function functions(): JsonResponse
    {
        $functions = Functions::all();
        ksort($functions);
        $examples = Examples::functions();

        return new JsonResponse([
            'functions' => array_values(array_map(fn (FunctionValue $f): array => ['name' => $f->name, 'parameters' => $f->parameters, 'required' => $f->required, 'variadic' => $f->variadic, 'examples' => $examples[$f->name] ?? []], $functions)),
            'operators' => Examples::operators(),
        ]);
    }

    #[Route('/api/formulas/try', methods: ['POST'])]
    public function try(Request $request): JsonResponse
    {
        $warnings = Warnings::at(DateTime::parse($this->clock->now()->format('Y-m-d\TH:i:sP')));
        try {
            $value = Formula::parse(Body::of($request)->text('formula'))->value(new MapScope, $warnings);
        } catch (FeelError $error) {
            return new JsonResponse(['value' => null, 'warnings' => [], 'error' => $error->getMessage()]);
        }

        return new JsonResponse(['value' => Json::encode($value), 'warnings' => array_column($warnings->all(), 'message'), 'error' => null]);
    }

    /** A condition as lines, or lines as a condition. */
    #[Route('/api/formulas/lines', methods: ['POST'])]
    public function lines(Request $request): JsonResponse
    {
        $body = Body::of($request);
        $formula = $body->textOrNull('formula');
        try {
            $formula ??= ConditionLines::write($body->map('lines'));
            $lines = ConditionLines::read($formula);
        } catch (FeelError|\InvalidArgumentException $error) {
            throw new Problem(422, 'This cannot be read.', $error->getMessage(), [['pointer' => $body->textOrNull('formula') === null ? '/lines' : '/formula', 'detail' => $error->getMessage()]]);
        }

        return new JsonResponse(['formula' => $formula, 'lines' => $lines, 'why' => match (true) {
            $lines !== null => null,
            ConditionLines::hasComment($formula) => 'It has a comment, which lines cannot keep.',
            default => 'It is not made of tests that lines can show.',
        }]);
    }

    /** A text as parts side by side, or such parts as a formula. */
    #[Route('/api/formulas/text', methods: ['POST'])]
    public function text(Request $request): JsonResponse
    {
        $body = Body::of($request);
        $formula = $body->textOrNull('formula');
        try {
            $formula ??= TextParts::write($body->maps('parts'));
            $parts = TextParts::read($formula);
        } catch (FeelError|\InvalidArgumentException $error) {
            throw new Problem(422, 'This cannot be read.', $error->getMessage(), [['pointer' => $body->textOrNull('formula') === null ? '/parts' : '/formula', 'detail' => $error->getMessage()]]);
        }

        return new JsonResponse(['formula' => $formula, 'parts' => $parts]);
    }

    /** Types of formulas of a rule or on a type, and what they come to in a step of a sample. */
    #[Route('/api/formulas/probe', methods: ['POST'])]
    public function probe(Request $request): JsonResponse
    {
        $body = Body::of($request);
        $rule = $body->textOrNull('rule') ?? '';
        $on = $rule === '' ? $body->text('on') : null;
        $tree = $body->mapOrNull('tree');
        $sources = $body->texts('formulas');
        if (count($sources) > self::MOST_PROBES) {
            throw new Problem(422, 'These are too many formulas.', sprintf('At most %d at once.', self::MOST_PROBES), [['pointer' => '/formulas', 'detail' => 'There are too many.']]);
        }
        $rulebook = $tree === null ? $this->draft->rulebook() : $this->draft->rulebookWith(PartKind::Rules, $rule, $tree);
        $names = RulebookBuilder::names($tree === null ? $this->draft->tree() : $this->draft->tree(PartKind::Rules, $rule, $tree), $rule, $on);
        if ($names === null) {
            throw new Problem(404, sprintf('There is no %s "%s".', $on === null ? 'rule' : 'type', mb_strimwidth($on ?? $rule, 0, 60, '…')), 'It may have been removed.');
        }
        $formulas = [];
        foreach ($sources as $source) {
            try {
                $formulas[] = Formula::parse($source);
            } catch (FeelError) {
                $formulas[] = null;
            }
        }
        $asked = array_values(array_filter($formulas));
        $sample = $body->textOrNull('sample') === null ? null : $this->draft->find(PartKind::Samples, $body->text('sample'));
        $values = null;
        if ($sample !== null && $asked !== []) {
            $steps = (new SampleRunner($rulebook, null, [$rule => $asked]))->run(Draft::sample($sample->tree()), TraceLevel::Outcome)->steps;
            $outcome = ($steps[$body->integerOrNull('step') ?? 0] ?? null)?->outcome;
            $values = $on === null || $outcome?->record->type === $on ? $outcome->probed[$rule] ?? null : null;
        }

        return new JsonResponse(['probes' => $this->probes($formulas, $names, $values)]);
    }

    /**
     * @param  list<Formula|null>  $formulas
     * @param  list<mixed>|null  $values  of those that could be read, in order
     * @return list<array<string, mixed>>
     */
    private function probes(array $formulas, Names $names, ?array $values): array
    {
        $place = 0;
        $probes = [];
        foreach ($formulas as $formula) {
            if ($formula === null) {
                $probes[] = ['type' => null, 'field' => null, 'known' => false, 'value' => null];

                continue;
            }
            $type = FormulaCheck::formula($formula, $names)->type;
            $field = $type->field;
            $probes[] = [
                'type' => $type->say(), 'field' => $field === null ? null : $field->of.'.'.$field->key,
                'known' => $values !== null, 'value' => $values[$place] ?? null,
            ];
            $place++;
        }

        return $probes;
    }
}
