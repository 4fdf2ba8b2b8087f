<?php

declare(strict_types=1);

namespace Sorvel\Tests\Browser;

use Facebook\WebDriver\WebDriverKeys as Key;

/** Guards on the ticket page, and where they are made. */
final class GuardTest extends BrowserTestCase
{
    public function test_the_ticket_page_obeys_as_one_types(): void
    {
        $this->signIn('rafi');
        $this->go('/tickets/P-1');
        $this->see('[data-test=locked-score]', 'The score follows from the four answers.');
        self::assertSame([], $this->all('[aria-label="Edit Score"]'));

        // hidden until the part is under warranty
        $this->go('/tickets/F-1');
        $this->find('[data-test=field-part]');
        self::assertSame([], $this->all('[data-test=field-claim_number]'));
        $this->click('[aria-label="Edit Under warranty"]');
        $this->choose('[data-field=under_warranty]', 'Yes');
        $this->find('[data-test=field-claim_number]');

        // only other vessels in service; another vessel, another list
        $this->click('[aria-label="Edit Also aboard"]');
        $this->see('[data-test=field-also_aboard]', 'Alder Tern');
        $offered = $this->find('[data-test=field-also_aboard]')->getText();
        self::assertStringNotContainsString('Marsh Wren', $offered, 'it is the fault’s own vessel');
        self::assertStringNotContainsString('Reed Bunting', $offered, 'it is laid up');
        $this->click('[aria-label="Edit Vessel"]');
        $this->choose('[data-field=vessel]', 'Alder Tern · V-01');
        $this->click('[aria-label="Edit Also aboard"]');
        $this->see('[data-test=field-also_aboard]', 'Marsh Wren');

        // needed once it would be declined
        $this->go('/tickets?type=request');
        $this->go('/tickets/R-64');
        $this->find('[data-test=ticket-page]');
    }

    public function test_a_guard_is_made_and_met(): void
    {
        $this->signIn('hanne');
        $this->go('/guards');
        $this->see('[data-test=states-request]', 'needed');
        $this->press('New guard');
        $this->choose('[data-test=new-guard] [aria-label=On]', 'Fault');
        $this->choose('[data-test=new-guard] [aria-label=Field]', 'Impact');
        $this->press('Add the guard');
        $this->see('[data-test=guard-sentence]', 'Impact of a fault cannot be changed, always.');
        $this->click('[data-test=add-line]');
        $this->keys('state', Key::ENTER);
        $this->choose('[aria-label="Value for State"]', 'Under way');
        $this->see('[data-test=guard-sentence]', 'while state is under way');
        $this->see('[data-test=guard-sheet] [data-test=save-state]', 'saved');
        $this->see('[data-test=states-fault]', 'fixed');
        $this->see('[data-test=guard-margin]', 'not in force');
        $this->press('Publish edition 2');
        $this->find('[role=dialog] textarea')->sendKeys('Impact stands while work is under way.');
        $this->find('input[name=override]')->sendKeys('Two samples differ on purpose.');
        $this->click('[role=dialog] .btn-main');
        $this->see('[data-test=draft-state]', 'is edition 2');

        $this->go('/tickets/F-1');
        $this->click('[data-test=move-under_way]');
        $this->press('Save 1 edit');
        $this->find('[data-test=locked-impact]');
        self::assertSame([], $this->all('[aria-label="Edit Impact"]'));
    }
}
