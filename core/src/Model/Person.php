<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

final class Person
{
    public function __construct(
        public readonly string $key,
        public readonly string $name,
        public readonly ?string $email = null,
        public readonly bool $active = true,
        public readonly bool $away = false,
        public readonly Role $role = Role::Agent,
    ) {
    }
}
