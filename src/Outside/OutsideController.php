<?php

declare(strict_types=1);

namespace Sorvel\App\Outside;

use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Sorvel\App\Desk\Desk;
use Sorvel\App\Http\Body;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Sorvel\Core\Model\RecordType;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

/** Outside lists: administrators say where they come from, builders see how they do and may ask them at once. */
final class OutsideController
{
    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly Desk $desk,
        private readonly Source $source,
        private readonly Secrets $secrets,
        private readonly Refresher $refresher,
        private readonly ClockInterface $clock,
    ) {
    }

    #[Route('/api/outside', methods: ['GET'])]
    #[IsGranted(Role::BUILDER)]
    public function list(): JsonResponse
    {
        $lists = $this->entities->getRepository(OutsideList::class)->findBy([], ['type' => 'ASC']);
        foreach ($lists as $list) {
            if ($list->isOverdue($this->clock->now())) {
                $this->refresher->planNext($list, 0);
            }
        }

        return new JsonResponse(['lists' => array_map(fn (OutsideList $l): array => $l->toArray(), $lists)]);
    }

    #[Route('/api/outside/{type}', methods: ['PUT'])]
    #[IsGranted(Role::ADMINISTRATOR)]
    public function save(string $type, Request $request): JsonResponse
    {
        $list = $this->entities->find(OutsideList::class, $type) ?? new OutsideList($type);
        $this->fill($list, $request);
        $this->entities->persist($list);
        $this->refresher->planNext($list, 0);

        return new JsonResponse($list->toArray());
    }

    /** What a source gives, as it would be taken; saves nothing. */
    #[Route('/api/outside/{type}/try', methods: ['POST'])]
    #[IsGranted(Role::ADMINISTRATOR)]
    public function try(string $type, Request $request): JsonResponse
    {
        $list = new OutsideList($type);
        $list->takeCredentials($this->entities->find(OutsideList::class, $type)?->credentials());
        $this->fill($list, $request);
        try {
            $rows = $this->source->rows($list);
        } catch (SourceFailure $failure) {
            return new JsonResponse(['problem' => $failure->getMessage(), 'total' => 0, 'rows' => []]);
        }

        return new JsonResponse(['problem' => null, 'total' => count($rows), 'rows' => array_map(fn (array $row): object => (object) $row, array_slice($rows, 0, 5))]);
    }

    #[Route('/api/outside/{type}/refresh', methods: ['POST'])]
    #[IsGranted(Role::BUILDER)]
    public function refresh(string $type): JsonResponse
    {
        $list = $this->find($type);
        $import = $this->refresher->refresh($list);

        return new JsonResponse(['list' => $list->toArray(), 'import' => $import]);
    }

    #[Route('/api/outside/{type}', methods: ['DELETE'])]
    #[IsGranted(Role::ADMINISTRATOR)]
    public function delete(string $type): JsonResponse
    {
        $this->entities->remove($this->find($type));
        $this->entities->flush();

        return new JsonResponse(null, 204);
    }

    private function fill(OutsideList $list, Request $request): void
    {
        $of = $this->desk->rulebook()->types[$list->type()] ?? null;
        if ($of === null || $of->isTicket) {
            throw new Problem(404, sprintf('There is no register "%s".', mb_strimwidth($list->type(), 0, 40, '…')));
        }
        $body = Body::of($request);
        [$address, $rows, $paths, $key] = [trim($body->text('address')), $body->text('rows'), $body->map('paths'), $body->text('key')];
        $errors = $this->mistakes($of, $address, $rows, $paths, $key, $body->integerOrNull('every') ?? 60);
        if ($errors !== []) {
            throw new Problem(422, 'The outside list was not saved.', 'Mend what is listed.', $errors);
        }
        /** @var array<string, string> $paths */
        $list->become($address, $rows, $paths, $key, $body->integerOrNull('every') ?? 60, $body->flag('inside'));
        $credentials = $body->textOrNull('credentials');
        if ($credentials !== null) {
            $list->takeCredentials($credentials === '' ? null : $this->secrets->encrypt($credentials));
        }
    }

    /**
     * @param  array<string, mixed>  $paths
     * @return list<array{pointer: string, detail: string}>
     */
    private function mistakes(RecordType $type, string $address, string $rows, array $paths, string $key, int $every): array
    {
        $errors = [];
        if (preg_match('~^(https?://|\{stand-in\}/)\S{1,480}$~', $address) !== 1) {
            $errors[] = ['pointer' => '/address', 'detail' => 'It must be an address that begins with https:// or http://.'];
        }
        if ($every < 1 || $every > 43_200) {
            $errors[] = ['pointer' => '/every', 'detail' => 'Between 1 minute and 30 days (43200 minutes).'];
        }
        foreach (['/rows' => $rows, ...array_combine(array_map(fn (string|int $f): string => '/paths/'.$f, array_keys($paths)), $paths)] as $pointer => $path) {
            try {
                is_string($path) && mb_strlen($path) <= 200 ? JsonPath::read($path) : throw new \InvalidArgumentException('A path is a text of at most 200 characters.');
            } catch (\InvalidArgumentException $mistake) {
                $errors[] = ['pointer' => $pointer, 'detail' => $mistake->getMessage()];
            }
        }
        foreach (array_keys($paths) as $field) {
            $known = $type->fields[$field] ?? null;
            if ($known === null || $known->fixed || ! $known->active) {
                $errors[] = ['pointer' => '/paths/'.$field, 'detail' => $known === null ? 'There is no such field.' : sprintf('%s takes no values from outside.', $known->label)];
            }
        }
        if (! isset($paths[$key])) {
            $errors[] = ['pointer' => '/key', 'detail' => 'The key must be one of the fields that have a path.'];
        }

        return $errors;
    }

    private function find(string $type): OutsideList
    {
        return $this->entities->find(OutsideList::class, $type) ?? throw new Problem(404, sprintf('The register "%s" comes from nowhere else.', mb_strimwidth($type, 0, 40, '…')));
    }
}
