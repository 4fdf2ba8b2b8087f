<?php

declare(strict_types=1);

namespace Sorvel\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

final class Version20261125114500 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'New keys of fields and options, with the edition they came into force with.';
    }

    public function up(Schema $schema): void
    {
        $this->addSql('CREATE TABLE key_change (id INT AUTO_INCREMENT NOT NULL, type VARCHAR(60) NOT NULL, field VARCHAR(60) NOT NULL, option_key VARCHAR(60) DEFAULT NULL, new_key VARCHAR(60) NOT NULL, changed_by VARCHAR(60) DEFAULT NULL, changed_at DATETIME NOT NULL, edition INT DEFAULT NULL, INDEX key_change_by_edition (edition), PRIMARY KEY (id)) DEFAULT CHARACTER SET utf8mb4 COLLATE `utf8mb4_bin`');
    }

    public function down(Schema $schema): void
    {
        $this->addSql('DROP TABLE key_change');
    }
}
