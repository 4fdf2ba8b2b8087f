<?php

declare(strict_types=1);

namespace Sorvel\App\Setup;

use Sorvel\Core\Model\Rulebook;

/** Where a story is told: on the desk itself, or in memory for events of the past. */
interface Stage
{
    public function rulebook(): Rulebook;

    /**
     * @param  array<string, mixed>  $values
     * @return string the id of the new record
     */
    public function create(string $type, array $values, ?string $by, \DateTimeImmutable $at, ?string $id = null): string;

    /**
     * @param  array<string, mixed>  $values
     * @return bool false when it was turned down
     */
    public function change(string $id, array $values, string $by, \DateTimeImmutable $at): bool;

    /** Between two tickets. */
    public function rest(): void;
}
