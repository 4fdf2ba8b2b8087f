<?php

declare(strict_types=1);

namespace Sorvel\Tests\Browser;

use Sorvel\Tests\DemoDatabase;

/** Findings, proposed samples, and the way back: what proves a rulebook. */
final class ProveTest extends BrowserTestCase
{
    public function test_a_finding_is_accepted_and_a_proposed_sample_kept(): void
    {
        // two rows of a rule are proved by one sample alone
        DemoDatabase::connection()->exec("DELETE FROM draft_part WHERE kind = 'samples' AND part_key = 'refit_progress_line_by_line'");
        $this->signIn('ines');
        $this->go('/findings');
        $this->see('[data-test=findings-attention]', 'does the same again each time the clock comes round');
        $this->browser->executeScript('[...document.querySelectorAll("[data-test=finding]")].find((li) => li.textContent.includes("each time the clock")).querySelector("button").click()');
        $this->find('[aria-label="Why it is meant so"]')->sendKeys("Whoever has not begun is to hear it each morning.\n");
        $this->see('[data-test=findings-accepted]', 'Accepted by Ines Calder');
        $this->see('[data-test=findings-accepted]', 'is to hear it each morning');

        $this->press('Missing samples');
        $this->see('[data-test=coverage]', 'rows are hit');
        $this->press('Propose what is missing');
        $this->see('[data-test=proposals]', 'samples proposed');
        // workers share the work, so what comes first is not always the same
        $refit = '[...document.querySelectorAll("[data-test=proposed]")].find((one) => one.textContent.includes("A refit task\'s progress follows its state"))';
        self::until(fn (): bool => $this->browser->executeScript("return $refit !== undefined && $refit.textContent.includes('comes out')") === true, 'one for the refit tasks is proposed');
        $before = count($this->all('[data-test=proposed]'));
        $this->browser->executeScript("[...$refit.querySelectorAll('button')].find((one) => one.textContent.includes('Keep as a sample')).click()");
        self::until(fn (): bool => $this->browser->executeScript("return $refit.textContent.includes('kept as')") === true, 'it is kept');
        $this->press('Throw away');
        self::until(fn (): bool => count($this->all('[data-test=proposed]')) === $before - 1, 'one is gone');
        $this->press('kept as');
        $this->see('main', "A refit task's progress follows its state");
        $this->see('[data-test=replay-light]', '107 agree');
    }

    public function test_a_value_is_followed_to_its_rule_and_a_rule_says_why_it_did_not_act(): void
    {
        $this->signIn('ines');
        $this->go('/samples/sailing_fault_goes_to_the_chief');
        $this->click('[data-test=why-team]');
        $this->see('[data-test=why-chain]', 'team Deck support was set by');
        $this->see('[data-test=why-chain]', 'from assignee.team');
        $this->see('[data-test=why-chain]', 'assignee Ines Calder was set by');
        $this->see('[data-test=why-chain]', 'superintendent Ines Calder was set by');
        $this->press('Give an unowned fault an owner');
        $this->see('[data-test=sentence]', 'assignee');
        $this->see('[data-test=why-not]', 'In this sample it acts.');
        $this->go('/rulebook/safety_is_urgent');
        $this->see('[data-test=why-not]', 'It looked, and no row fits');
        $this->go('/rulebook/score_proposal');
        $this->see('[data-test=why-not]', 'It runs on a proposal, and this is a fault.');
    }

    public function test_a_replay_that_takes_long_is_shared_by_workers_and_can_be_stopped(): void
    {
        DemoDatabase::restore();
        DemoDatabase::connection()->exec("UPDATE draft_part SET tree = JSON_SET(tree, '$.steps[0].repeat', 6000) WHERE kind = 'samples' AND JSON_VALUE(tree, '$.steps[0].repeat') = 500");
        $this->signIn('ines');
        $this->go('/rulebook/rank_fault');
        $this->see('[data-test=replaying]', 'all samples');
        $this->click('[data-test=replaying] button');
        $this->see('[data-test=replaying]', 'stopped at');
        $this->click('[data-test=replaying] button');
        $this->see('[data-test=replay-light]', '106 agree');
        self::assertSame([], $this->all('[data-test=replaying]'));
        // and after an edit again, those that it touches first
        $this->cell('cell-1-2');
        $this->keys('>', ' ', '4', '0', \Facebook\WebDriver\WebDriverKeys::ENTER);
        $this->see('[data-test=replaying]', 'all samples');
        $this->see('[data-test=replay-light]', 'differ');
    }

    public function test_a_line_of_the_impact_is_kept_as_a_sample(): void
    {
        DemoDatabase::restore();
        $this->signIn('ines');
        $this->go('/rulebook/rank_fault');
        $this->cell('cell-1-2');
        $this->keys('>', ' ', '4', '0', \Facebook\WebDriver\WebDriverKeys::ENTER);
        $this->see('[data-test=draft-state]', '1 change on edition 1');
        $this->go('/impact');
        $this->press('Replay past events through the draft');
        $this->see('[data-test=impact-counts]', 'events would have come out otherwise');
        $this->see('[data-test=impact-fields]', 'Priority of fault');
        $this->see('[data-test=impact-rules]', 'Rank a fault by what it stops');
        $this->click('[data-test=impact-lines] a');
        $this->see('[data-test=compared]', 'They part at “Rank a fault by what it stops”: row 1 fits under the edition, row 2 under the draft.');
        $this->press('Keep as a sample');
        $this->see('main', 'taken from');
        $this->see('main', 'differs');
        $this->see('[data-test=draft-state]', '1 change on edition 1');
    }

    public function test_back_to_an_earlier_edition(): void
    {
        DemoDatabase::restore();
        $this->signIn('hanne');
        $this->go('/rulebook/rank_fault');
        $this->cell('cell-2-3');
        $this->keys('"', 's', 'o', 'o', 'n', '"', \Facebook\WebDriver\WebDriverKeys::ENTER);
        $this->see('[data-test=draft-state]', 'on edition 1');
        $this->press('Publish edition 2');
        $this->find('textarea[name=note]')->sendKeys('Boarding may wait.');
        $this->find('input[name=override]')->sendKeys('Tried for a week.');
        $this->click('.dialog .btn-main');
        $this->see('[data-test=edition-2]', 'published all the same');
        $this->go('/editions/1');
        $this->press('Go back to edition 1 …');
        $this->see('[data-test=back-impact]', 'events would have come out otherwise');
        $this->find('input[name=reason]')->sendKeys('It waited too long.');
        $this->click('[data-test=go-back] .btn-main');
        $this->see('[data-test=edition-3]', 'Back to edition 1: It waited too long.');
        $this->see('[data-test=edition-3]', 'in force');
        $this->see('[data-test=draft-state]', 'is edition 3');
    }
}
