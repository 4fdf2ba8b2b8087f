<?php

declare(strict_types=1);

namespace Sorvel\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

final class Version20261125140000 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Records are found by name, letters large or small.';
    }

    public function up(Schema $schema): void
    {
        $this->addSql('ALTER TABLE record ADD folded VARCHAR(190) AS (LOWER(LEFT(name, 190))) PERSISTENT, ADD INDEX record_by_name (type, folded)');
    }

    public function down(Schema $schema): void
    {
        $this->addSql('ALTER TABLE record DROP INDEX record_by_name, DROP folded');
    }
}
