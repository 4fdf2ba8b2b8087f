<?php

declare(strict_types=1);

namespace Sorvel\Core\Tests;

use PHPUnit\Framework\Attributes\TestDox;
use PHPUnit\Framework\TestCase;

final class LayoutTest extends TestCase
{
    private const ALLOWED = ['Sorvel\Core', 'Brick\Math', 'Opis\JsonSchema', 'Symfony\Component\Yaml', 'Symfony\Component\HtmlSanitizer', 'Cron', 'Random'];

    #[TestDox('The core names nothing of the framework, the database or the application')]
    public function test_core_is_free(): void
    {
        $checked = 0;
        foreach (new \RecursiveIteratorIterator(new \RecursiveDirectoryIterator(dirname(__DIR__).'/src')) as $file) {
            if (! $file instanceof \SplFileInfo || $file->getExtension() !== 'php') {
                continue;
            }
            $checked++;
            foreach ($this->names((string) file_get_contents($file->getPathname())) as $name) {
                $known = array_filter(self::ALLOWED, fn (string $root): bool => str_starts_with($name, $root.'\\') || $name === $root);
                self::assertNotSame([], $known, $file->getFilename().' names '.$name);
            }
        }
        self::assertGreaterThan(80, $checked);
    }

    public function test_a_stranger_is_noticed(): void
    {
        self::assertContains('Doctrine\DBAL\Connection', $this->names('<?php use Doctrine\DBAL\Connection;'));
        self::assertContains('Symfony\Component\HttpKernel\Kernel', $this->names('<?php $x = new \Symfony\Component\HttpKernel\Kernel();'));
    }

    /** @return list<string> every name with a namespace that the code imports or writes out */
    private function names(string $code): array
    {
        $names = [];
        foreach (\PhpToken::tokenize($code) as $token) {
            if ($token->is([T_NAME_QUALIFIED, T_NAME_FULLY_QUALIFIED])) {
                $name = ltrim($token->text, '\\');
                if (str_contains($name, '\\') && ! str_starts_with($name, 'Node\\') && ! str_starts_with($name, 'Kind\\') && ! str_starts_with($name, 'BuiltIn\\')) {
                    $names[] = $name;
                }
            }
        }

        return $names;
    }
}
