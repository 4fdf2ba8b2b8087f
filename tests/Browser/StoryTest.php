<?php

declare(strict_types=1);

namespace Sorvel\Tests\Browser;

use Facebook\WebDriver\WebDriverBy;
use Facebook\WebDriver\WebDriverKeys as Key;

final class StoryTest extends BrowserTestCase
{
    public function test_a_rule_is_changed_proved_mended_published_and_acts(): void
    {
        // she signs in and opens a rule
        $this->signIn('hanne');
        $this->see('[data-test=replay-light]', '≠ 2');
        $this->press('Rank a fault by what it stops');
        $this->see('[data-test=sentence]', 'When a fault: it is created or its impact or hours down change, and only if state is not closed: set its priority and add to its tags, by impact and hours down.');
        $this->see('[data-test=sample-bar]', 'A fault that stops a sailing goes to the superintendent');
        $this->see('[data-test=row-1] [data-test=margin-hit]', 'priority → Sailing at risk');

        // she changes a cell of its grid, and sees as she types which sample no longer comes out as expected
        $this->cell('cell-1-3');
        $this->keys('u', 'r', 'g');
        $this->see('[data-test=outcome]', 'priority Urgent, expected Sailing at risk');
        $this->see('[data-test=replay-light]', '≠ 9');
        $this->see('[data-test=draft-state]', 'is edition 1');
        $this->keys(Key::ENTER);
        $this->see('[data-test=save-state]', 'saved');
        $this->see('[data-test=draft-state]', '1 change on edition 1');
        $this->see('[data-test=cell-1-3]', 'Urgent');

        // she mends it, and answers the question that the desk came with
        $this->chord('z', Key::CONTROL);
        $this->see('[data-test=cell-1-3]', 'Sailing at risk');
        $this->see('[data-test=replay-light]', '≠ 2');
        $this->cell('cell-1-2');
        $this->keys('>', ' ', '3', Key::ENTER);
        $this->see('[data-test=row-1]', '> 3');
        $this->see('[data-test=save-state]', 'saved');
        $this->see('[data-test=draft-state]', '1 change on edition 1');

        // she publishes
        $this->press('Publish edition 2');
        $this->see('[data-test=in-the-way]', 'A proposal that scores exactly forty-five');
        $this->see('[data-test=in-the-way]', 'Priority by what a fault stops, hour by hour');
        $this->find('textarea[name=note]')->sendKeys('Three hours down already put a sailing at risk.');
        self::assertFalse($this->find('.dialog .btn-main')->isEnabled(), 'something stands in the way, and no reason is given');
        $this->find('input[name=override]')->sendKeys('Nobody has said yet on which side of the line it falls.');
        $this->find('.dialog .btn-main')->click();
        $this->see('[data-test=edition-2]', 'Three hours down already put a sailing at risk.');
        $this->see('[data-test=edition-2]', 'in force');
        $this->see('[data-test=edition-2]', '✓ 107 agreed');
        $this->see('main', '> 3');
        $this->see('[data-test=overridden]', 'on which side of the line');
        $this->see('[data-test=draft-state]', 'is edition 2');

        // and sees it act on a ticket, before saving and after
        $this->go('/tickets?new=fault');
        $this->find('[data-test=new-ticket] [aria-label=Title]')->sendKeys('Bow door stuck <b>half</b> open');
        $this->browser->findElement(WebDriverBy::cssSelector('select[data-field=impact] option[value=sailing]'))->click();
        $this->find('input[data-field=hours_down]')->sendKeys('3,5');
        $this->see('[data-test=will-priority]', '→ Sailing at risk');
        $this->see('[data-test=on-saving]', '3 Rank a fault by what it stops');
        $this->press('Create');
        $this->see('[data-test=field-priority]', 'Sailing at risk');
        $this->see('[data-test=history]', '3 Rank a fault by what it stops');
        self::assertSame('Bow door stuck <b>half</b> open', $this->find('[data-test=ticket-page] [aria-label=Title]')->getAttribute('value'));
        $this->press('why?');
        $this->see('[data-test=trace]', 'row 1 fits');
    }

    public function test_edits_of_a_ticket_are_held_until_saved_and_shown_meanwhile(): void
    {
        $this->signIn('rafi');
        $this->go('/tickets?type=fault&filter%5Bstate%5D=logged&filter%5Bimpact%5D=comfort');
        $this->click('[data-test^=open-F]');
        $this->press('Edit Impact');
        $this->browser->findElement(WebDriverBy::cssSelector('select[data-field=impact] option[value=sailing]'))->click();
        $this->see('[data-test=on-saving]', 'Rank a fault by what it stops');
        $this->find('[data-test=will-priority]');
        $this->find('[data-test=will-tags]');
        $this->press('Drop');
        $this->see('[data-test=field-impact]', 'Passenger comfort');
        $this->press('Edit Impact');
        $this->browser->findElement(WebDriverBy::cssSelector('select[data-field=impact] option[value=sailing]'))->click();
        $this->press('Save 1 edit');
        $this->see('[data-test=history]', 'impact Passenger comfort → The next sailing');
        $this->see('[data-test=field-impact]', 'The next sailing');
    }
}
