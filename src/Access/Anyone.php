<?php

declare(strict_types=1);

namespace Sorvel\App\Access;

/** Names the role of a route that needs none. Every route carries this or IsGranted; a test walks them all. */
#[\Attribute(\Attribute::TARGET_METHOD | \Attribute::TARGET_CLASS)]
final class Anyone
{
}
