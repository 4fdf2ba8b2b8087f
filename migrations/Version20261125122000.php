<?php

declare(strict_types=1);

namespace Sorvel\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

final class Version20261125122000 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'When a ticket was made and changed, among its values, so that formulas can read it.';
    }

    public function up(Schema $schema): void
    {
        $this->addSql("UPDATE record SET field_values = JSON_SET(field_values, '$.created_at', DATE_FORMAT(created_at, '%Y-%m-%dT%H:%i:%sZ'), '$.changed_at', DATE_FORMAT(changed_at, '%Y-%m-%dT%H:%i:%sZ')) WHERE ticket = 1 AND NOT JSON_EXISTS(field_values, '$.created_at')");
    }

    public function down(Schema $schema): void
    {
        $this->addSql("UPDATE record SET field_values = JSON_REMOVE(field_values, '$.created_at', '$.changed_at') WHERE ticket = 1");
    }
}
