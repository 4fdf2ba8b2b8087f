<?php

declare(strict_types=1);

namespace Sorvel\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

final class Version20261125145000 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'A narrow index of the values of records, so that lists over a hundred thousand stay fast.';
    }

    public function up(Schema $schema): void
    {
        $this->addSql('ALTER TABLE record ADD n INT UNSIGNED NOT NULL AUTO_INCREMENT UNIQUE, ADD INDEX record_by_number (type, n)');
        $this->addSql('CREATE TABLE record_word (id SMALLINT UNSIGNED AUTO_INCREMENT NOT NULL, word VARCHAR(60) NOT NULL, UNIQUE INDEX record_word_word (word), PRIMARY KEY (id)) DEFAULT CHARACTER SET utf8mb4 COLLATE `utf8mb4_bin`');
        $this->addSql('CREATE TABLE record_text (n INT UNSIGNED NOT NULL, slot SMALLINT UNSIGNED NOT NULL, i SMALLINT UNSIGNED NOT NULL, kind SMALLINT UNSIGNED NOT NULL, value VARCHAR(190) NOT NULL, INDEX record_text_value (slot, value, n, kind), PRIMARY KEY (n, slot, i)) DEFAULT CHARACTER SET utf8mb4 COLLATE `utf8mb4_bin`');
        $this->addSql('CREATE TABLE record_number (n INT UNSIGNED NOT NULL, slot SMALLINT UNSIGNED NOT NULL, kind SMALLINT UNSIGNED NOT NULL, value DOUBLE NOT NULL, INDEX record_number_value (slot, value, n, kind), PRIMARY KEY (n, slot))');
        // what was indexed before goes over as it is
        $this->addSql('INSERT INTO record_word (word) SELECT DISTINCT w FROM (SELECT type AS w FROM record_index UNION SELECT field FROM record_index) t');
        $this->addSql('INSERT INTO record_text (n, slot, i, kind, value) SELECT r.n, f.id, ROW_NUMBER() OVER (PARTITION BY r.n, f.id ORDER BY x.id) - 1, k.id, x.text_value FROM record_index x JOIN record r ON r.id = x.record JOIN record_word f ON f.word = x.field JOIN record_word k ON k.word = x.type WHERE x.number_value IS NULL AND x.text_value IS NOT NULL');
        $this->addSql('INSERT INTO record_number (n, slot, kind, value) SELECT r.n, f.id, k.id, MAX(x.number_value) FROM record_index x JOIN record r ON r.id = x.record JOIN record_word f ON f.word = x.field JOIN record_word k ON k.word = x.type WHERE x.number_value IS NOT NULL GROUP BY r.n, f.id, k.id');
        $this->addSql("INSERT INTO record_number (n, slot, kind, value) SELECT t.n, t.slot, t.kind, CAST(SUBSTRING_INDEX(t.value, '-', -1) AS DOUBLE) FROM record_text t JOIN record_word f ON f.id = t.slot WHERE f.word = 'number' AND t.value REGEXP '[0-9]+$' ON DUPLICATE KEY UPDATE value = VALUES(value)");
        $this->addSql('DROP TABLE record_index');
    }

    public function down(Schema $schema): void
    {
        $this->throwIrreversibleMigrationException('The old index is not kept.');
    }
}
