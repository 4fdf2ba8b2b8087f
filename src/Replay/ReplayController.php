<?php

declare(strict_types=1);

namespace Sorvel\App\Replay;

use Sorvel\App\Draft\Draft;
use Sorvel\App\Draft\PartKind;
use Sorvel\App\Edition\Editions;
use Sorvel\App\Http\Body;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Sorvel\Core\Engine\Outcome;
use Sorvel\Core\Replay\Report;
use Sorvel\Core\Replay\Sample;
use Sorvel\Core\Replay\SampleResult;
use Sorvel\Core\Replay\StepResult;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

/** Replays the samples through the draft, also with a part as it is being typed. Saves nothing. */
final class ReplayController
{
    public function __construct(private readonly Draft $draft, private readonly Editions $editions)
    {
    }

    #[Route('/api/replay', methods: ['POST'])]
    #[IsGranted(Role::BUILDER)]
    public function replay(Request $request): JsonResponse
    {
        $start = hrtime(true);
        // most of a draft's formulas are those of the edition in force, compiled already
        $this->editions->rulebook();
        $body = Body::of($request);
        $traced = $body->textOrNull('trace');
        $change = $body->mapOrNull('change');
        $samples = null;
        if ($body->flag('edition')) {
            $rulebook = $this->editions->rulebook() ?? throw new Problem(409, 'No edition is in force yet.', 'Publish the draft first.');
        } elseif ($change === null) {
            $rulebook = $this->draft->rulebook();
        } else {
            $part = Body::from($change);
            $kind = PartKind::tryFrom($part->text('kind'));
            if ($kind?->isEditable() !== true) {
                throw new Problem(422, 'This part cannot be tried.', '', [['pointer' => '/change/kind', 'detail' => 'It must be rules, tables or samples.']]);
            }
            $rulebook = $this->draft->rulebookWith($kind, $part->text('key'), $part->map('tree'));
            $samples = $kind === PartKind::Samples ? $this->samplesWith($part->text('key'), Draft::sample($part->map('tree'))) : null;
        }
        $only = $body->textOrNull('only');
        $samples ??= $this->draft->samples();
        $some = $only !== null ? [$only] : ($body->has('some') ? $body->texts('some') : null);
        if ($some !== null) {
            $samples = array_values(array_filter($samples, fn (Sample $s): bool => in_array($s->key, $some, true)));
        }
        $report = Report::of($rulebook, $samples, $traced);
        $found = array_values(array_filter($report->results, fn (SampleResult $r): bool => $r->key === $traced))[0] ?? null;
        $plain = $report->toArray();

        return new JsonResponse([
            'totals' => $plain['totals'],
            'samples' => Replayed::samples($report),
            'coverage' => $plain['coverage'],
            'traced' => $found === null ? null : ['key' => $found->key, 'steps' => array_map(fn (StepResult $s): array => [
                'trace' => $s->outcome?->trace,
                'others' => array_map(fn (Outcome $o): array => $o->trace, array_values(array_filter(array_slice($s->outcomes, 1, 50), fn (Outcome $o): bool => $o->trace !== []))),
                'values' => (object) array_map(fn (array $v): object => (object) $v, $s->values),
            ], $found->steps)],
            'ms' => round((hrtime(true) - $start) / 1e6, 1),
        ]);
    }

    /** @return list<Sample> */
    private function samplesWith(string $key, Sample $changed): array
    {
        $samples = $this->draft->samples();
        foreach ($samples as $i => $sample) {
            if ($sample->key === $key) {
                $samples[$i] = $changed;

                return $samples;
            }
        }

        return [...$samples, $changed];
    }
}
