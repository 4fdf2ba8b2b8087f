<?php

declare(strict_types=1);

namespace Sorvel\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

final class Version20261125143000 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Imports and their rows.';
    }

    public function up(Schema $schema): void
    {
        $this->addSql('CREATE TABLE import (id INT AUTO_INCREMENT NOT NULL, type VARCHAR(60) NOT NULL, name VARCHAR(200) NOT NULL, person VARCHAR(60) NOT NULL, at DATETIME NOT NULL, stage VARCHAR(20) NOT NULL, columns JSON NOT NULL, matching JSON NOT NULL, key_field VARCHAR(60) DEFAULT NULL, total INT NOT NULL, problem VARCHAR(1000) NOT NULL, PRIMARY KEY (id)) DEFAULT CHARACTER SET utf8mb4 COLLATE `utf8mb4_bin`');
        $this->addSql('CREATE TABLE import_row (import INT NOT NULL, number INT NOT NULL, cells LONGTEXT NOT NULL, fate VARCHAR(10) DEFAULT NULL, reasons LONGTEXT NOT NULL, record VARCHAR(40) DEFAULT NULL, done TINYINT DEFAULT 0 NOT NULL, unreadable TINYINT DEFAULT 0 NOT NULL, way_back LONGTEXT DEFAULT NULL, INDEX import_row_fate (import, fate, number), INDEX import_row_done (import, done, number), PRIMARY KEY (import, number)) DEFAULT CHARACTER SET utf8mb4 COLLATE `utf8mb4_bin`');
    }

    public function down(Schema $schema): void
    {
        $this->addSql('DROP TABLE import');
        $this->addSql('DROP TABLE import_row');
    }
}
