<?php

declare(strict_types=1);

namespace Sorvel\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

final class Version20261125080000 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'People, draft, editions, records with their index, runs, sessions and work for the worker.';
    }

    public function up(Schema $schema): void
    {
        $this->addSql('CREATE TABLE run (id INT AUTO_INCREMENT NOT NULL, record VARCHAR(40) NOT NULL, type VARCHAR(60) NOT NULL, kind VARCHAR(20) NOT NULL, person VARCHAR(60) DEFAULT NULL, at DATETIME NOT NULL, edition INT DEFAULT NULL, incoming JSON NOT NULL, values_before JSON DEFAULT NULL, values_after JSON NOT NULL, changes JSON NOT NULL, rules JSON NOT NULL, problems JSON NOT NULL, trace JSON NOT NULL, ms DOUBLE PRECISION NOT NULL, INDEX run_of_record (record, id), PRIMARY KEY (id)) DEFAULT CHARACTER SET utf8mb4 COLLATE `utf8mb4_bin`');
        $this->addSql('CREATE TABLE sign_in_attempt (id VARCHAR(64) NOT NULL, failures INT NOT NULL, last INT NOT NULL, PRIMARY KEY (id)) DEFAULT CHARACTER SET utf8mb4 COLLATE `utf8mb4_bin`');
        $this->addSql('CREATE TABLE person (id VARCHAR(60) NOT NULL, name VARCHAR(200) NOT NULL, email VARCHAR(190) COLLATE utf8mb4_general_ci NOT NULL, password VARCHAR(255) DEFAULT NULL, role VARCHAR(20) NOT NULL, active TINYINT NOT NULL, away TINYINT NOT NULL, UNIQUE INDEX UNIQ_34DCD176E7927C74 (email), PRIMARY KEY (id)) DEFAULT CHARACTER SET utf8mb4 COLLATE `utf8mb4_bin`');
        $this->addSql('CREATE TABLE record_counter (type VARCHAR(60) NOT NULL, last INT NOT NULL, PRIMARY KEY (type)) DEFAULT CHARACTER SET utf8mb4 COLLATE `utf8mb4_bin`');
        $this->addSql('CREATE TABLE record_index (id BIGINT AUTO_INCREMENT NOT NULL, type VARCHAR(60) NOT NULL, field VARCHAR(60) NOT NULL, record VARCHAR(40) NOT NULL, text_value VARCHAR(190) DEFAULT NULL, number_value NUMERIC(46, 12) DEFAULT NULL, INDEX record_index_text (type, field, text_value, record), INDEX record_index_number (type, field, number_value, record), INDEX record_index_record (record, field), PRIMARY KEY (id)) DEFAULT CHARACTER SET utf8mb4 COLLATE `utf8mb4_bin`');
        $this->addSql('CREATE TABLE record (id VARCHAR(40) NOT NULL, type VARCHAR(60) NOT NULL, ticket TINYINT NOT NULL, name VARCHAR(500) NOT NULL, state VARCHAR(60) DEFAULT NULL, assignee VARCHAR(60) DEFAULT NULL, team VARCHAR(60) DEFAULT NULL, field_values JSON NOT NULL, version INT NOT NULL, created_at DATETIME NOT NULL, changed_at DATETIME NOT NULL, INDEX record_by_change (type, changed_at, id), INDEX record_by_state (type, state, changed_at), INDEX record_by_assignee (assignee, changed_at), PRIMARY KEY (id)) DEFAULT CHARACTER SET utf8mb4 COLLATE `utf8mb4_bin`');
        $this->addSql('CREATE TABLE edition (number INT NOT NULL, note LONGTEXT NOT NULL, published_by VARCHAR(60) DEFAULT NULL, published_at DATETIME NOT NULL, rulebook JSON NOT NULL, samples JSON NOT NULL, changes JSON NOT NULL, replay JSON DEFAULT NULL, PRIMARY KEY (number)) DEFAULT CHARACTER SET utf8mb4 COLLATE `utf8mb4_bin`');
        $this->addSql('CREATE TABLE draft_part (id INT AUTO_INCREMENT NOT NULL, kind VARCHAR(10) NOT NULL, part_key VARCHAR(80) NOT NULL, position INT NOT NULL, tree JSON NOT NULL, version INT DEFAULT 1 NOT NULL, changed_by VARCHAR(60) DEFAULT NULL, changed_at DATETIME NOT NULL, UNIQUE INDEX draft_part_key (kind, part_key), PRIMARY KEY (id)) DEFAULT CHARACTER SET utf8mb4 COLLATE `utf8mb4_bin`');
        $this->addSql('CREATE TABLE messenger_messages (id BIGINT AUTO_INCREMENT NOT NULL, body LONGTEXT NOT NULL, headers LONGTEXT NOT NULL, queue_name VARCHAR(190) NOT NULL, created_at DATETIME NOT NULL, available_at DATETIME NOT NULL, delivered_at DATETIME DEFAULT NULL, INDEX IDX_75EA56E0FB7336F0E3BD61CE16BA31DBBF396750 (queue_name, available_at, delivered_at, id), PRIMARY KEY (id))');
        $this->addSql('CREATE TABLE session (id VARBINARY(128) NOT NULL, data LONGBLOB NOT NULL, lifetime INT UNSIGNED NOT NULL, time INT UNSIGNED NOT NULL, INDEX lifetime_idx (lifetime), PRIMARY KEY (id)) ENGINE = InnoDB');
    }

    public function down(Schema $schema): void
    {
        foreach (['run', 'sign_in_attempt', 'person', 'record_counter', 'record_index', 'record', 'edition', 'draft_part', 'messenger_messages', 'session'] as $table) {
            $this->addSql('DROP TABLE '.$table);
        }
    }
}
