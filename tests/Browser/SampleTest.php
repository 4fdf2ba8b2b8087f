<?php

declare(strict_types=1);

namespace Sorvel\Tests\Browser;

use Facebook\WebDriver\WebDriverBy;

final class SampleTest extends BrowserTestCase
{
    public function test_a_ticket_becomes_a_sample(): void
    {
        $this->signIn('ines');
        $this->go('/tickets?q=bow%20door');
        $this->click('[data-test^=open-F]');
        $title = $this->find('[data-test=ticket-page] [aria-label=Title]')->getAttribute('value');
        $this->press('Keep as sample');
        self::assertSame($title, $this->find('[aria-label="Title of the sample"]')->getAttribute('value'));
        $this->see('[data-test=story]', '✓ agrees');
        $this->see('[data-test=story]', 'taken from F-');
        $this->see('[data-test=sample-bar]', (string) $title);
        $this->go('/samples');
        $this->see('main', (string) $title);
        $this->go('/rulebook');
        self::until(fn (): bool => count($this->browser->findElements(WebDriverBy::cssSelector('[data-test=replay-grid] tfoot a'))) === 110, 'it has its column in the replay grid');
    }

    public function test_what_came_out_is_accepted(): void
    {
        $this->signIn('ines');
        $this->go('/samples/bow_door_three_hours');
        $this->see('[data-test=expect-F1-priority]', 'Sailing at risk');
        $this->see('[data-test=story]', '≠ differs');
        $this->click('[data-test=expect-F1-priority] .link');
        $this->see('[data-test=story]', '✓ agrees');
        $this->see('[data-test=expect-F1-priority]', 'Urgent Urgent ✓');
        $this->see('[data-test=replay-light]', '≠ 1');
    }

    public function test_a_story_is_written_by_hand(): void
    {
        $this->signIn('ines');
        $this->go('/samples');
        $this->press('New sample');
        $this->find('[data-test=story]');
        $this->press('+ step');
        $this->press('move the clock');
        $this->see('[data-test=step-2]', 'the clock moves to');
        $this->press('expect these too');
        $this->see('[data-test=expect-F1-priority]', 'Routine');
        $this->see('[data-test=story]', '✓ agrees');
        $this->press('Routine');
        $this->browser->findElement(WebDriverBy::cssSelector('[data-test=expect-F1-priority] option[value=urgent]'))->click();
        $this->see('[data-test=story]', '≠ differs');
    }

    public function test_a_step_that_deletes_is_told_and_traced(): void
    {
        $this->signIn('ines');
        $this->go('/samples/areas_count_what_lies_within');
        $this->see('[data-test=step-3]', 'deletes fault F1');
        $this->click('[aria-label="Step 3"]');
        $this->see('[data-test=trace]', 'F1');
        $this->go('/fields');
        $this->see('.ledger', 'Open faults here');
    }
}
