<?php

declare(strict_types=1);

namespace Sorvel\Core\Feel;

/** A formula went past a bound. Never leaves the Formula: its value is null, with a warning. */
final class EvaluationStopped extends \RuntimeException
{
}
