<?php

declare(strict_types=1);

namespace Sorvel\App\Work;

use Sorvel\App\Http\Problem;
use Symfony\Component\DependencyInjection\Attribute\AutowireIterator;

/** The kinds of long work, by their word. */
final class Tasks
{
    /** @var array<string, Task> */
    private array $tasks = [];

    /** @param  iterable<Task>  $tasks */
    public function __construct(#[AutowireIterator('sorvel.task')] iterable $tasks)
    {
        foreach ($tasks as $task) {
            $this->tasks[$task->kind()] = $task;
        }
    }

    public function of(string $kind): Task
    {
        return $this->tasks[$kind] ?? throw new Problem(422, 'There is no such work.', '', [['pointer' => '/kind', 'detail' => 'It is one of '.implode(', ', array_keys($this->tasks)).'.']]);
    }
}
