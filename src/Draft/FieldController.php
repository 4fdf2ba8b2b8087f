<?php

declare(strict_types=1);

namespace Sorvel\App\Draft;

use Doctrine\ORM\EntityManagerInterface;
use Sorvel\App\Access\CurrentPerson;
use Sorvel\App\Edition\Editions;
use Sorvel\App\Http\Body;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Sorvel\Core\Finding\Mention;
use Sorvel\Core\Finding\Rename;
use Sorvel\Core\Format\RulebookBuilder;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

/** Fields of the draft: who names them, and new keys. */
#[IsGranted(Role::BUILDER)]
final class FieldController
{
    public function __construct(
        private readonly Draft $draft,
        private readonly KeyChanges $keyChanges,
        private readonly EntityManagerInterface $entities,
        private readonly CurrentPerson $person,
        private readonly Editions $editions,
        private readonly Conversions $conversions,
    ) {
    }

    /** Every place of the rulebook that names a field or an option. */
    #[Route('/api/draft/mentions', methods: ['GET'], priority: 1)]
    public function mentions(): JsonResponse
    {
        $tree = $this->draft->tree();

        return new JsonResponse(['mentions' => array_map(function (Mention $m) use ($tree): array {
            [, $kind, $place] = explode('/', $m->path.'//');
            $part = $tree[$kind][(int) $place] ?? [];

            return [
                'kind' => $kind, 'key' => is_array($part) ? (string) ($part['key'] ?? '') : '', 'pointer' => preg_replace('~^/\w+/\d+~', '', $m->path),
                'type' => $m->field->of, 'field' => $m->field->key, 'option' => $m->option, 'writes' => $m->writes,
            ];
        }, RulebookBuilder::mentions($tree))]);
    }

    /** What a type's records would lose if it became as given. */
    #[Route('/api/draft/types/{key}/conversion', methods: ['POST'], priority: 1)]
    public function conversion(string $key, Request $request): JsonResponse
    {
        $next = $this->draft->rulebookWith(PartKind::Types, $key, Body::of($request)->map('tree'))->types[$key] ?? throw new Problem(404, sprintf('There is no type "%s".', mb_strimwidth($key, 0, 40, '…')));
        $now = $this->editions->rulebook();

        return new JsonResponse(['fields' => $now === null ? [] : $this->conversions->preview($now, $next)]);
    }

    #[Route('/api/draft/rename', methods: ['POST'], priority: 1)]
    public function rename(Request $request): JsonResponse
    {
        $body = Body::of($request);
        $rename = new Rename($body->text('type'), $body->text('field'), $body->textOrNull('option'), $body->text('to'));
        $this->entities->wrapInTransaction(function () use ($rename): void {
            foreach ($this->draft->rename($rename, $this->person->key())->each() as $one) {
                $this->keyChanges->note($one, $this->person->key());
            }
        });

        return new JsonResponse(['changes' => $this->draft->changes()]);
    }
}
