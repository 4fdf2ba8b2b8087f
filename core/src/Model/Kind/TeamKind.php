<?php

declare(strict_types=1);

namespace Sorvel\Core\Model\Kind;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\TeamView;
use Sorvel\Core\Model\Viewer;

final class TeamKind implements FieldKind
{
    public function fit(mixed $value, Field $field, Viewer $viewer, bool $byRule): string
    {
        $key = $value instanceof TeamView ? $value->identity() : $value;
        if (! is_string($key) || ! isset($viewer->rulebook->teams[$key])) {
            throw new Misfit(is_string($key) ? sprintf('there is no team "%s".', mb_strimwidth($key, 0, 60, '…')) : 'it must be a team.');
        }

        return $key;
    }

    public function seen(mixed $stored, Field $field, Viewer $viewer, string $path): mixed
    {
        $team = is_string($stored) ? $viewer->rulebook->teams[$stored] ?? null : null;

        return $team === null ? null : new TeamView($team);
    }

    public function words(mixed $stored, Field $field, Viewer $viewer): string
    {
        return is_string($stored) ? $viewer->rulebook->teams[$stored]->name ?? $stored : '';
    }

    /** By key or name. */
    public function read(string $words, Field $field, Viewer $viewer): string
    {
        foreach ($viewer->rulebook->teams as $key => $team) {
            if ((string) $key === $words || mb_strtolower($team->name) === mb_strtolower($words)) {
                return (string) $key;
            }
        }
        throw new Misfit(sprintf('there is no team "%s".', mb_strimwidth($words, 0, 60, '…')));
    }
}
