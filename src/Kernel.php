<?php

declare(strict_types=1);

namespace Sorvel\App;

use Symfony\Bundle\FrameworkBundle\Kernel\MicroKernelTrait;
use Symfony\Component\Config\Resource\DirectoryResource;
use Symfony\Component\DependencyInjection\ContainerBuilder;
use Symfony\Component\HttpKernel\Kernel as BaseKernel;

final class Kernel extends BaseKernel
{
    use MicroKernelTrait;

    /** What the core is made of, as a short text: what is kept of rulebooks belongs to it. */
    protected function build(ContainerBuilder $container): void
    {
        $core = $this->getProjectDir().'/core/src';
        $container->addResource(new DirectoryResource($core, '~\.php$~'));
        $hashes = [];
        foreach (new \RecursiveIteratorIterator(new \RecursiveDirectoryIterator($core, \FilesystemIterator::SKIP_DOTS)) as $file) {
            $hashes[(string) $file] = hash_file('xxh128', (string) $file);
        }
        ksort($hashes);
        $container->setParameter('sorvel.code', hash('xxh128', implode(' ', $hashes)));
    }

    public function getCacheDir(): string
    {
        return $this->stateDir().'/cache/'.$this->environment;
    }

    public function getLogDir(): string
    {
        return $this->stateDir().'/log';
    }

    /** Where a run keeps its own files: bin/sorvel gives each run (start, test) a folder. */
    private function stateDir(): string
    {
        return (string) (getenv('SORVEL_STATE') ?: $this->getProjectDir().'/var');
    }
}
