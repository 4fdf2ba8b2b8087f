<?php

declare(strict_types=1);

namespace Sorvel\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

final class Version20261125180000 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'What rules do beside fields: messages and calls that go out, messages that come in, notices, turns, schedules; and which rules acted in a run.';
    }

    public function up(Schema $schema): void
    {
        $end = ' DEFAULT CHARACTER SET utf8mb4 COLLATE `utf8mb4_bin`';
        $this->addSql('CREATE TABLE outgoing (id INT AUTO_INCREMENT NOT NULL, token CHAR(36) NOT NULL, kind VARCHAR(10) NOT NULL, record VARCHAR(40) DEFAULT NULL, rule VARCHAR(80) DEFAULT NULL, name VARCHAR(190) NOT NULL, data LONGTEXT NOT NULL, stage VARCHAR(10) NOT NULL, tries SMALLINT NOT NULL DEFAULT 0, made_at DATETIME NOT NULL, due_at DATETIME(3) NOT NULL, done_at DATETIME DEFAULT NULL, status SMALLINT DEFAULT NULL, answer LONGTEXT DEFAULT NULL, problem VARCHAR(500) NOT NULL DEFAULT \'\', UNIQUE INDEX outgoing_token (token), INDEX outgoing_due (stage, due_at), INDEX outgoing_of_record (record, id), PRIMARY KEY (id))'.$end);
        $this->addSql('CREATE TABLE incoming (id INT AUTO_INCREMENT NOT NULL, sender VARCHAR(190) NOT NULL, subject VARCHAR(500) NOT NULL, text LONGTEXT NOT NULL, html LONGTEXT DEFAULT NULL, at DATETIME NOT NULL, record VARCHAR(40) NOT NULL, opened TINYINT NOT NULL, person VARCHAR(60) DEFAULT NULL, INDEX incoming_of_record (record, id), PRIMARY KEY (id))'.$end);
        $this->addSql('CREATE TABLE notice (id INT AUTO_INCREMENT NOT NULL, person VARCHAR(60) NOT NULL, at DATETIME NOT NULL, text LONGTEXT NOT NULL, record VARCHAR(40) DEFAULT NULL, rule VARCHAR(80) DEFAULT NULL, problem TINYINT NOT NULL, times INT NOT NULL DEFAULT 1, seen_at DATETIME DEFAULT NULL, INDEX notice_of_person (person, seen_at, id), PRIMARY KEY (id))'.$end);
        $this->addSql('CREATE TABLE turn (team VARCHAR(60) NOT NULL, person VARCHAR(60) NOT NULL, PRIMARY KEY (team))'.$end);
        $this->addSql('CREATE TABLE clock (name VARCHAR(20) NOT NULL, at DATETIME NOT NULL, PRIMARY KEY (name))'.$end);
        $this->addSql('CREATE TABLE scheduled_event (id INT AUTO_INCREMENT NOT NULL, type VARCHAR(60) NOT NULL, record VARCHAR(40) NOT NULL, due LONGTEXT NOT NULL, at DATETIME NOT NULL, PRIMARY KEY (id))'.$end);
        $this->addSql('CREATE TABLE allowed_address (id INT AUTO_INCREMENT NOT NULL, address VARCHAR(300) NOT NULL, inside TINYINT NOT NULL, stand_in TINYINT NOT NULL, credentials LONGTEXT DEFAULT NULL, UNIQUE INDEX allowed_address_address (address), PRIMARY KEY (id))'.$end);
        $this->addSql('CREATE TABLE run_rule (run INT NOT NULL, rule VARCHAR(80) NOT NULL, status VARCHAR(20) NOT NULL, day DATE NOT NULL, INDEX run_rule_of_rule (rule, day, status), INDEX run_rule_by_day (day, rule, status), PRIMARY KEY (run, rule))'.$end);
        $this->addSql('CREATE TABLE stand_in_post (token CHAR(36) NOT NULL, kind VARCHAR(10) NOT NULL, name VARCHAR(300) NOT NULL, data LONGTEXT NOT NULL, times INT NOT NULL DEFAULT 1, at DATETIME NOT NULL, INDEX stand_in_post_at (kind, at), PRIMARY KEY (token))'.$end);
        $this->addSql('ALTER TABLE run ADD wrong TINYINT NOT NULL DEFAULT 0, ADD INDEX run_wrong (wrong, id), ADD INDEX run_at (at)');
        $this->addSql('UPDATE run SET wrong = 1 WHERE problems <> \'[]\'');
        $this->addSql('ALTER TABLE note ADD rule VARCHAR(80) DEFAULT NULL, ADD sender VARCHAR(190) DEFAULT NULL');
    }

    public function down(Schema $schema): void
    {
        foreach (['outgoing', 'incoming', 'notice', 'turn', 'clock', 'scheduled_event', 'allowed_address', 'run_rule', 'stand_in_post'] as $table) {
            $this->addSql('DROP TABLE '.$table);
        }
        $this->addSql('ALTER TABLE run DROP INDEX run_wrong, DROP INDEX run_at, DROP wrong');
        $this->addSql('ALTER TABLE note DROP rule, DROP sender');
    }
}
