<?php

declare(strict_types=1);

namespace Sorvel\App\Outside;

/** Why an outside list gave nothing usable, in words for whoever keeps it. */
final class SourceFailure extends \RuntimeException
{
}
