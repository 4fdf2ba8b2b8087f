<?php

declare(strict_types=1);

namespace Sorvel\App\Setup;

use Doctrine\ORM\EntityManagerInterface;
use Sorvel\App\Desk\Desk;
use Sorvel\App\Http\Problem;
use Sorvel\Core\Model\Rulebook;

/** The story is lived through on the desk. */
final class DeskStage implements Stage
{
    public function __construct(private readonly Desk $desk, private readonly EntityManagerInterface $entities)
    {
    }

    public function rulebook(): Rulebook
    {
        return $this->desk->rulebook();
    }

    public function create(string $type, array $values, ?string $by, \DateTimeImmutable $at, ?string $id = null): string
    {
        return $this->desk->create($type, $values, $by, $at, $id)->stored->record->id;
    }

    public function change(string $id, array $values, string $by, \DateTimeImmutable $at): bool
    {
        try {
            $this->desk->change($id, $values, null, $by, $at);

            return true;
        } catch (Problem) {
            return false;
        }
    }

    public function rest(): void
    {
        $this->entities->clear();
    }
}
