<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests\Model;

use PHPUnit\Framework\TestCase;
use Sorvel\Core\Model\InMemoryStore;
use Sorvel\Core\Model\RecordStore;
use Sorvel\Core\Model\Rulebook;

final class InMemoryStoreTest extends TestCase
{
    use RecordStoreContract;

    protected function store(Rulebook $rulebook): RecordStore
    {
        return new InMemoryStore;
    }

    protected function again(Rulebook $rulebook, RecordStore $store): RecordStore
    {
        return $store;
    }
}
