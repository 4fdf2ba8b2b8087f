<?php

declare(strict_types=1);

namespace Sorvel\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

final class Version20261125141000 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Notes on tickets, and who watches them.';
    }

    public function up(Schema $schema): void
    {
        $this->addSql('CREATE TABLE note (id INT AUTO_INCREMENT NOT NULL, record VARCHAR(40) NOT NULL, readers VARCHAR(20) NOT NULL, person VARCHAR(60) DEFAULT NULL, at DATETIME NOT NULL, text LONGTEXT NOT NULL, INDEX note_of_record (record, id), PRIMARY KEY (id)) DEFAULT CHARACTER SET utf8mb4 COLLATE `utf8mb4_bin`');
        $this->addSql('CREATE TABLE watcher (record VARCHAR(40) NOT NULL, person VARCHAR(60) NOT NULL, seen_run INT NOT NULL, seen_note INT NOT NULL, INDEX watcher_person (person), PRIMARY KEY (record, person)) DEFAULT CHARACTER SET utf8mb4 COLLATE `utf8mb4_bin`');
    }

    public function down(Schema $schema): void
    {
        $this->addSql('DROP TABLE note');
        $this->addSql('DROP TABLE watcher');
    }
}
