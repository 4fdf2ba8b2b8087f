<?php

declare(strict_types=1);

namespace Sorvel\App;

use Symfony\Bundle\FrameworkBundle\Kernel\MicroKernelTrait;
use Symfony\Component\HttpKernel\Kernel as BaseKernel;

final class Kernel extends BaseKernel
{
    use MicroKernelTrait;

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
