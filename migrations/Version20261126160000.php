<?php

declare(strict_types=1);

namespace Sorvel\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

final class Version20261126160000 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Accepted findings; why an edition was published all the same, and to which it goes back; long work in chunks; what a live event read.';
    }

    public function up(Schema $schema): void
    {
        $end = ' DEFAULT CHARACTER SET utf8mb4 COLLATE `utf8mb4_bin`';
        $this->addSql('CREATE TABLE accepted_finding (id VARCHAR(20) NOT NULL, reason LONGTEXT NOT NULL, person VARCHAR(60) NOT NULL, at DATETIME NOT NULL, PRIMARY KEY (id))'.$end);
        $this->addSql('ALTER TABLE edition ADD overridden LONGTEXT DEFAULT NULL, ADD back_to INT DEFAULT NULL');
        $this->addSql('CREATE TABLE long_work (id INT AUTO_INCREMENT NOT NULL, kind VARCHAR(20) NOT NULL, person VARCHAR(60) DEFAULT NULL, at DATETIME NOT NULL, draft CHAR(32) NOT NULL, rulebook LONGTEXT NOT NULL, samples LONGTEXT NOT NULL, asked LONGTEXT NOT NULL, chunks INT NOT NULL, stopped TINYINT NOT NULL DEFAULT 0, INDEX long_work_of_kind (kind, id), PRIMARY KEY (id))'.$end);
        $this->addSql('CREATE TABLE long_work_chunk (work INT NOT NULL, number INT NOT NULL, result LONGTEXT NOT NULL, ms INT NOT NULL, PRIMARY KEY (work, number))'.$end);
        $this->addSql('CREATE TABLE approval (draft CHAR(32) NOT NULL, person VARCHAR(60) NOT NULL, at DATETIME NOT NULL, PRIMARY KEY (draft, person))'.$end);
        $this->addSql('CREATE TABLE machine_token (id INT AUTO_INCREMENT NOT NULL, name VARCHAR(100) NOT NULL, digest CHAR(64) NOT NULL, person VARCHAR(60) NOT NULL, role VARCHAR(20) NOT NULL, made_at DATETIME NOT NULL, used_at DATETIME DEFAULT NULL, UNIQUE INDEX machine_token_digest (digest), PRIMARY KEY (id))'.$end);
        $this->addSql('CREATE TABLE past_event (id INT AUTO_INCREMENT NOT NULL, run INT DEFAULT NULL, record VARCHAR(40) NOT NULL, type VARCHAR(60) NOT NULL, at DATETIME NOT NULL, data LONGBLOB NOT NULL, INDEX past_event_run (run), INDEX past_event_at (at), PRIMARY KEY (id))'.$end);
    }

    public function down(Schema $schema): void
    {
        foreach (['accepted_finding', 'long_work', 'long_work_chunk', 'past_event', 'machine_token', 'approval'] as $table) {
            $this->addSql('DROP TABLE '.$table);
        }
        $this->addSql('ALTER TABLE edition DROP overridden, DROP back_to');
    }
}
