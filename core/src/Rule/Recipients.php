<?php

declare(strict_types=1);

namespace Sorvel\Core\Rule;

use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Person;
use Sorvel\Core\Model\PersonView;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Model\TeamView;

/** People, teams and addresses that something goes to, each once and in order. */
final class Recipients
{
    /**
     * @return list<string> keys; who is no longer active is left out
     *
     * @throws Misfit
     */
    public static function people(mixed $value, Rulebook $rulebook): array
    {
        $keys = [];
        foreach (is_array($value) ? $value : [$value] as $one) {
            $found = $one instanceof TeamView ? $rulebook->teams[$one->identity()]->members ?? [] : [$one instanceof PersonView ? $one->identity() : $one];
            foreach ($found as $key) {
                $person = is_string($key) ? $rulebook->people[$key] ?? null : null;
                if ($person === null && $key !== null) {
                    throw new Misfit(sprintf('"%s" is nobody of this desk.', is_string($key) ? mb_strimwidth($key, 0, 60, '…') : 'That'));
                }
                if ($person?->active === true) {
                    $keys[$person->key] = true;
                }
            }
        }

        return array_map(strval(...), array_keys($keys));
    }

    /**
     * @return list<string> addresses
     *
     * @throws Misfit
     */
    public static function addresses(mixed $value, Rulebook $rulebook): array
    {
        $addresses = [];
        foreach (is_array($value) ? $value : [$value] as $one) {
            if ($one === null) {
                continue;
            }
            if (is_string($one) && ! isset($rulebook->people[$one])) {
                if (filter_var($one, FILTER_VALIDATE_EMAIL) === false) {
                    throw new Misfit(sprintf('"%s" is neither an address nor a person.', mb_strimwidth($one, 0, 60, '…')));
                }
                $addresses[$one] = true;

                continue;
            }
            foreach (array_map(fn (string $key): ?Person => $rulebook->people[$key] ?? null, self::people($one, $rulebook)) as $person) {
                if ($person !== null && $person->email === null) {
                    throw new Misfit(sprintf('%s has no address.', $person->name));
                }
                if ($person?->email !== null) {
                    $addresses[$person->email] = true;
                }
            }
        }

        return array_map(strval(...), array_keys($addresses));
    }
}
