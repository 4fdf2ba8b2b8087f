<?php

declare(strict_types=1);

namespace Sorvel\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

final class Version20261125144000 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Outside lists, and checks of what follows from other records.';
    }

    public function up(Schema $schema): void
    {
        $this->addSql('CREATE TABLE outside_list (type VARCHAR(60) NOT NULL, address VARCHAR(500) NOT NULL, rows_path VARCHAR(200) NOT NULL, paths JSON NOT NULL, key_field VARCHAR(60) NOT NULL, every_minutes INT NOT NULL, inside TINYINT NOT NULL, credentials VARCHAR(2000) DEFAULT NULL, plan INT NOT NULL, tried_at DATETIME DEFAULT NULL, good_at DATETIME DEFAULT NULL, next_at DATETIME DEFAULT NULL, problem VARCHAR(1000) NOT NULL, fingerprint VARCHAR(64) NOT NULL, listed INT NOT NULL, unlisted INT NOT NULL, PRIMARY KEY (type)) DEFAULT CHARACTER SET utf8mb4 COLLATE `utf8mb4_bin`');
        $this->addSql('CREATE TABLE line_check (id INT AUTO_INCREMENT NOT NULL, mends TINYINT NOT NULL, person VARCHAR(60) NOT NULL, at DATETIME NOT NULL, stage VARCHAR(20) NOT NULL, total INT NOT NULL, done INT NOT NULL, found JSON NOT NULL, PRIMARY KEY (id)) DEFAULT CHARACTER SET utf8mb4 COLLATE `utf8mb4_bin`');
    }

    public function down(Schema $schema): void
    {
        $this->addSql('DROP TABLE outside_list');
        $this->addSql('DROP TABLE line_check');
    }
}
