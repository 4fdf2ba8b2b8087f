<?php

declare(strict_types=1);

namespace Sorvel\Core\Table;

/** How hit rows become a value (DMN 1.5, 8.2.10). */
enum HitPolicy: string
{
    case Unique = 'unique';
    case First = 'first';
    case Any = 'any';
    case Priority = 'priority';
    case OutputOrder = 'output order';
    case RuleOrder = 'rule order';
    case Collect = 'collect';
    case CollectSum = 'collect sum';
    case CollectMin = 'collect min';
    case CollectMax = 'collect max';
    case CollectCount = 'collect count';

    public function needsOrder(): bool
    {
        return $this === self::Priority || $this === self::OutputOrder;
    }
}
