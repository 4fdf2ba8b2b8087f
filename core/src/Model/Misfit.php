<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

/** A value that does not fit its field; the message says what would. */
final class Misfit extends \RuntimeException
{
}
