<?php

declare(strict_types=1);

namespace Sorvel\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

final class Version20261125142000 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Saved views of lists.';
    }

    public function up(Schema $schema): void
    {
        $this->addSql('CREATE TABLE saved_view (id INT AUTO_INCREMENT NOT NULL, person VARCHAR(60) NOT NULL, name VARCHAR(80) NOT NULL, query VARCHAR(8000) NOT NULL, shared TINYINT NOT NULL, INDEX saved_view_person (person), PRIMARY KEY (id)) DEFAULT CHARACTER SET utf8mb4 COLLATE `utf8mb4_bin`');
    }

    public function down(Schema $schema): void
    {
        $this->addSql('DROP TABLE saved_view');
    }
}
