<?php

declare(strict_types=1);

namespace Sorvel\App\Edition;

use Doctrine\ORM\EntityManagerInterface;
use Psr\Cache\CacheItemPoolInterface;
use Sorvel\Core\Engine\CompiledRules;
use Sorvel\Core\Format\RulebookBuilder;
use Sorvel\Core\Model\Rulebook;
use Symfony\Component\DependencyInjection\Attribute\Autowire;

/** Published editions, and the rulebook in force, built once and kept. */
final class Editions
{
    /** Seconds that the compiled file of an edition is kept when others have come since. */
    private const KEPT_FOR = 7 * 86_400;

    private ?Edition $current = null;

    private ?Rulebook $rulebook = null;

    private ?int $rulebookNumber = null;

    /** The edition that a save holds; null outside of one. */
    private ?int $held = null;

    public function __construct(private readonly EntityManagerInterface $entities, private readonly CacheItemPoolInterface $cache, #[Autowire('%kernel.cache_dir%')] private readonly string $folder, #[Autowire('%sorvel.code%')] private readonly string $code)
    {
    }

    public function current(): ?Edition
    {
        return $this->current ??= $this->entities->getRepository(Edition::class)->findOneBy([], ['number' => 'DESC']);
    }

    public function currentNumber(): ?int
    {
        if ($this->held !== null) {
            return $this->held;
        }
        $number = $this->entities->getConnection()->fetchOne('SELECT MAX(number) FROM edition');

        return $number === null || $number === false ? null : (int) $number;
    }

    /**
     * Inside the transaction of a save: the edition in force stays in force until it ends. An edition may give fields
     * new keys, and no save may come between.
     */
    public function hold(): void
    {
        $this->held = $this->lock('LOCK IN SHARE MODE');
    }

    /** The transaction is over; from now on it is asked again. */
    public function release(): void
    {
        $this->held = null;
    }

    /** Inside the transaction that publishes: saves under way end first, others wait. */
    public function waitForSaves(): void
    {
        $this->release();
        $this->lock('FOR UPDATE');
    }

    /** Who had to wait for a lock may hold that of an edition which is not the last any more, so it looks once more. */
    private function lock(string $mode): ?int
    {
        do {
            $held = $this->entities->getConnection()->fetchOne('SELECT number FROM edition ORDER BY number DESC LIMIT 1 '.$mode);
            $last = $this->entities->getConnection()->fetchOne('SELECT number FROM edition ORDER BY number DESC LIMIT 1 '.$mode);
        } while ($held !== $last);

        return is_numeric($last) ? (int) $last : null;
    }

    public function find(int $number): ?Edition
    {
        return $this->entities->find(Edition::class, $number);
    }

    /** @return list<Edition> newest first */
    public function all(): array
    {
        return array_values($this->entities->getRepository(Edition::class)->findBy([], ['number' => 'DESC'], 200));
    }

    /** The rulebook that the desk runs on; null before the first edition. */
    public function rulebook(): ?Rulebook
    {
        $number = $this->currentNumber();
        if ($number === null) {
            return null;
        }
        if ($this->rulebookNumber === $number) {
            return $this->rulebook;
        }
        $identity = $this->identity($number);
        $item = $this->cache->getItem('rulebook.'.$identity);
        $rulebook = $item->isHit() ? $item->get() : null;
        if (! $rulebook instanceof Rulebook) {
            $rulebook = RulebookBuilder::build($this->find($number)?->rulebook() ?? throw new \LogicException('The edition in force is gone.'));
            CompiledRules::identify($rulebook);
            $this->cache->save($item->set($rulebook));
        }
        $this->loadCompiled($rulebook, $identity);
        $this->rulebookNumber = $number;
        $this->rulebook = $rulebook;

        return $rulebook;
    }

    /** The edition's formulas and rules as PHP, written once; the opcode cache keeps them over requests. */
    private function loadCompiled(Rulebook $rulebook, string $identity): void
    {
        $file = $this->folder.'/compiled-'.$identity.'.php';
        if (! is_readable($file)) {
            $written = CompiledRules::write($rulebook, $this->folder);
            // a worker may run as somebody else than the web server
            if ($written === null || ! chmod($written, 0666 & ~umask()) || ! rename($written, $file)) {
                // no file, no harm: formulas and rules are walked
                return;
            }
            $this->forgetOld($file);
        }
        CompiledRules::load($file);
    }

    /** What was compiled for editions long gone; where one is still in use after all, it is made anew. */
    private function forgetOld(string $but): void
    {
        foreach (glob($this->folder.'/compiled-*.php') ?: [] as $file) {
            if ($file !== $but && (int) filemtime($file) < time() - self::KEPT_FOR) {
                unlink($file);
            }
        }
    }

    public function published(Edition $edition): void
    {
        $this->current = $edition;
    }

    /** Two installations on one machine share the cache, so a number is not enough. */
    private function identity(int $number): string
    {
        $at = $this->entities->getConnection()->fetchOne('SELECT CONCAT(DATABASE(), published_at, LENGTH(rulebook)) FROM edition WHERE number = ?', [$number]);

        // and with other code a rulebook is built and compiled anew
        return hash('xxh128', $number.'|'.(is_string($at) ? $at : '').'|'.$this->code);
    }
}
