<?php

declare(strict_types=1);

namespace Sorvel\App\View;

use Doctrine\ORM\EntityManagerInterface;
use Sorvel\App\Access\CurrentPerson;
use Sorvel\App\Http\Body;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

/** Saved views: one's own, and those that others share. Only their owner changes them. */
#[IsGranted(Role::AGENT)]
final class ViewController
{
    public function __construct(private readonly EntityManagerInterface $entities, private readonly CurrentPerson $person)
    {
    }

    #[Route('/api/views', methods: ['GET'])]
    public function list(): JsonResponse
    {
        /** @var list<SavedView> $views */
        $views = $this->entities->getRepository(SavedView::class)->createQueryBuilder('v')->where('v.person = :me OR v.shared = true')->setParameter('me', $this->person->key())->orderBy('v.name')->setMaxResults(200)->getQuery()->getResult();

        return new JsonResponse(['views' => array_map(fn (SavedView $v): array => $v->toArray($this->person->key()), $views)]);
    }

    #[Route('/api/views', methods: ['POST'])]
    public function add(Request $request): JsonResponse
    {
        $view = new SavedView($this->person->key(), ...$this->read($request));
        $this->entities->persist($view);
        $this->entities->flush();

        return new JsonResponse($view->toArray($this->person->key()), 201);
    }

    #[Route('/api/views/{number}', methods: ['PUT'], requirements: ['number' => '\d{1,9}'])]
    public function change(int $number, Request $request): JsonResponse
    {
        $view = $this->own($number);
        $view->become(...$this->read($request));
        $this->entities->flush();

        return new JsonResponse($view->toArray($this->person->key()));
    }

    #[Route('/api/views/{number}', methods: ['DELETE'], requirements: ['number' => '\d{1,9}'])]
    public function delete(int $number): JsonResponse
    {
        $this->entities->remove($this->own($number));
        $this->entities->flush();

        return new JsonResponse(null, 204);
    }

    private function own(int $number): SavedView
    {
        $view = $this->entities->find(SavedView::class, $number);

        return $view?->person() === $this->person->key() ? $view : throw new Problem(404, 'You have no such view.', 'It may have been removed, or it belongs to somebody else.');
    }

    /** @return array{string, string, bool} */
    private function read(Request $request): array
    {
        $body = Body::of($request);
        [$name, $query] = [trim($body->text('name')), $body->text('query')];
        if ($name === '' || mb_strlen($name) > 80) {
            throw new Problem(422, 'The view was not saved.', '', [['pointer' => '/name', 'detail' => 'A name has 1 to 80 characters.']]);
        }
        if (strlen($query) > 8000 || preg_match('~[\x00-\x1f]~', $query) === 1) {
            throw new Problem(422, 'The view was not saved.', '', [['pointer' => '/query', 'detail' => 'It is too long.']]);
        }

        return [$name, $query, $body->flag('shared')];
    }
}
