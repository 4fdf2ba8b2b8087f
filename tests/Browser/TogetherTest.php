<?php

declare(strict_types=1);

namespace Sorvel\Tests\Browser;

use Facebook\WebDriver\WebDriverBy;
use Facebook\WebDriver\WebDriverKeys as Key;

final class TogetherTest extends BrowserTestCase
{
    public function test_two_builders_on_one_rule_both_see_both_sides(): void
    {
        $this->signIn('ines');
        $this->go('/rulebook/rank_fault');
        $this->see('[data-test=cell-1-3]', 'Sailing at risk');
        $second = $this->open();
        $this->signIn('hanne', $second);
        $this->go('/rulebook/rank_fault', $second);
        $this->cell('cell-5-3', $second);
        $second->switchTo()->activeElement()->sendKeys(['u', 'r', 'g', Key::ENTER]);
        $this->see('[data-test=cell-5-3]', 'Urgent', $second);
        $this->see('[data-test=save-state]', 'saved', $second);

        $this->cell('cell-2-3');
        $this->keys('s', 'o', 'o', Key::ENTER);
        $this->see('[data-test=conflict]', 'Hanne Voss saved this while you were editing');
        $this->see('[data-test=conflict]', '"soon"');
        $this->press('Take theirs');
        $this->see('[data-test=cell-5-3]', 'Urgent');
        $this->see('[data-test=cell-2-3]', 'Urgent');
        $this->chord('z', Key::CONTROL);
        $this->see('[data-test=cell-2-3]', 'Soon');
        $this->see('[data-test=save-state]', 'saved');
    }

    public function test_two_agents_on_one_ticket_pick_field_by_field(): void
    {
        $this->signIn('rafi');
        $this->go('/tickets/F-20');
        $this->find('[data-test=field-impact]');
        $second = $this->open();
        $this->signIn('ines', $second);
        $this->go('/tickets/F-20', $second);
        // both have begun before either saves; else the first page would simply show what the second has saved
        $this->setField('under_warranty', 'false');
        $this->setField('safety', 'true');
        $this->see('[data-test=ticket-page]', 'Save 2 edits');

        $this->setField('under_warranty', 'true', $second);
        $this->press('Save 1 edit', $second);
        $this->see('[data-test=history]', 'under warranty', $second);

        // the page tells of it by itself; saving asks which of the two is to stand
        $this->see('[data-test=meanwhile]', 'Nothing is overwritten');
        $this->press('Save 2 edits');
        $this->see('[data-test=conflict]', 'Somebody saved F-20 while you were editing');
        $this->click('[data-test=conflict] tbody tr:first-child td:nth-child(3) input');
        $this->press('Go on with this');
        $this->see('[data-test=field-under_warranty]', 'Yes');
        $this->press('Save 1 edit');
        $this->see('[data-test=history]', 'safety equipment');
        $this->see('[data-test=field-safety]', 'Yes');
    }

    private function setField(string $field, string $value, ?\Facebook\WebDriver\Remote\RemoteWebDriver $browser = null): void
    {
        $this->click("[data-test=field-$field] button", $browser);
        $this->find("select[data-field=$field]", $browser);
        ($browser ?? $this->browser)->findElement(WebDriverBy::cssSelector("select[data-field=$field] option[value='$value']"))->click();
        ($browser ?? $this->browser)->executeScript('document.activeElement.blur()');
    }
}
