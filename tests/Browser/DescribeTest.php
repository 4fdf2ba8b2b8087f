<?php

declare(strict_types=1);

namespace Sorvel\Tests\Browser;

use Facebook\WebDriver\WebDriverBy;

/** Fields, states, registers and files, as the person who keeps them does it. */
final class DescribeTest extends BrowserTestCase
{
    public function test_a_field_is_added_changed_and_retired(): void
    {
        $this->signIn('ines');
        $this->go('/fields/request');
        $this->press('New field');
        $this->find('[aria-label="Label of the new field"]')->sendKeys('Cost so far');
        $this->choose('[aria-label="Type of the new field"]', 'number');
        $this->press('Add field');
        $this->find('[data-test=field-sheet]');
        $this->find('[aria-label=min]')->sendKeys("0\n");
        $this->choose('[aria-label="What requesters see"]', 'see it and cannot set it');
        $this->see('[data-test=field-status]', 'saved');
        $this->see('[data-test=draft-state]', 'change');

        // an option that records may hold is retired, and what names it is told first
        $this->go('/fields/fault/impact');
        $sailing = '[data-test=option-sailing]';
        // it cannot be pressed before it is known what names the option
        self::until(function () use ($sailing): bool {
            $retire = $this->find($sailing)->findElement(WebDriverBy::xpath('.//button[contains(., "Retire")]'));

            if (! $retire->isEnabled()) {
                return false;
            }
            $retire->click();

            return true;
        }, 'it can be retired');
        $this->see($sailing, 'Rank a fault by what it stops');
        self::assertSame([], $this->all($sailing.' .line-through'));

        // a field in use is not removed either
        $this->go('/fields/fault/hours_down');
        $this->see('[data-test=read-by]', '3 Rank a fault by what it stops');
        $this->press('Retire …');
        $this->see('[data-test=retire]', 'It is still read by');
        $this->press('Keep it');

        // another type tells what the records would lose
        $this->choose('[data-test=field-sheet] [aria-label=Type]', 'yes or no');
        $this->see('[data-test=field-sheet]', 'It would break');
        $this->go('/fields/fault/found_by');
        $this->choose('[data-test=field-sheet] [aria-label=Type]', 'choice');
        $this->see('[data-test=losses]', 'would be lost');
        $this->see('[data-test=losses]', 'it holds 2 values');
        $this->press('Leave it as it is');
    }

    public function test_moves_are_drawn_and_changed_with_their_roles(): void
    {
        $this->signIn('ines');
        $this->go('/fields/refit_task');
        $this->see('[data-test=moves-diagram]', 'builder');
        $this->choose('[aria-label="From Planned to Handed over"]', 'publisher');
        $this->see('[data-test=moves-diagram]', 'publisher');
        // the desk runs on the edition in force; there the move does not exist yet
        $this->go('/tickets?type=refit_task&lines='.rawurlencode('[{"field":"state","is":"any","of":["planned"]}]'));
        $this->click('[data-test^=open-T]');
        self::assertFalse($this->find('[data-test=move-handed_over]')->isEnabled());
    }

    public function test_a_file_is_tried_imported_and_undone(): void
    {
        $this->signIn('ines');
        $this->go('/imports?type=part');
        $file = (string) tempnam(sys_get_temp_dir(), 'parts').'.csv';
        file_put_contents($file, "Name;Code;Family\nGearbox 4;GBX-4;Hydraulics\nRope guide;RPG-1;Doors and hinges\nBroken;not a code;\n");
        $this->find('[type=file]')->sendKeys($file);
        $this->see('[data-test=matching]', 'Rope guide');
        $this->press('Show what each row comes to');
        $this->see('[data-test=import-counts]', 'would be made 1');
        $this->see('[data-test=import-counts]', 'would be changed 1');
        $this->see('[data-test=import-rows]', 'it does not have the form');
        $this->press('Import 2 rows');
        $this->see('[data-test=import-stage]', 'imported');
        $this->see('[data-test=import-counts]', 'made 1');
        $this->go('/registers/part?q=Rope');
        $this->see('.ledger', 'RPG-1');
        $this->go('/imports');
        $this->press(basename($file));
        $this->press('Undo this import');
        $this->see('[data-test=import-stage]', 'undone');
        $this->go('/registers/part?q=Rope');
        $this->see('main', 'Nothing in this register is called that.');
        unlink($file);
    }

    public function test_a_tree_opens_and_closes_and_what_is_referred_to_stays(): void
    {
        $this->signIn('ines');
        $this->go('/registers/area?as=tree');
        $this->see('[data-test=tree]', 'Starboard engine');
        $this->press('Close Engine space');
        self::until(fn (): bool => $this->all('[data-test=node-A-4]') === [], 'what lies below is folded away');
        $this->go('/registers/area/A-2?as=tree');
        $this->press('Delete');
        $this->see('[data-test=record-sheet]', 'Delete Engine space for good?');
        $this->press('Delete');
        $this->see('[data-test=record-sheet]', 'cannot be deleted');
    }

    public function test_what_is_out_of_line_is_counted_and_brought_into_line(): void
    {
        $this->signIn('ines');
        $this->go('/mirrors');
        $this->press('Count anew');
        $this->see('[data-test=drift-sum]', 'Nothing is out of line');
        \Sorvel\Tests\DemoDatabase::connection()->exec("UPDATE record SET field_values = JSON_SET(field_values, '$.open_faults', 999) WHERE id = 'V-02'");
        $this->press('Count anew');
        $this->see('[data-test=out-of-line]', '1 value is out of line');
        $this->press('Bring 1 value into line');
        $this->see('[data-test=drift-sum]', '1 brought into line');
        $this->press('Count anew');
        $this->see('[data-test=drift-sum]', 'Nothing is out of line');
    }

    public function test_an_outside_list_is_tried_and_says_how_it_goes(): void
    {
        $this->signIn('greta');
        $this->go('/registers/supplier');
        $this->see('[data-test=outside-state]', '8 rows');
        $this->press('Source');
        $this->retype('[data-test=outside] [aria-label=Address]', '{stand-in}/suppliers?as=html');
        $this->press('Try it');
        $this->see('[data-test=outside-tried]', 'a web page (HTML)');
        $this->retype('[data-test=outside] [aria-label=Address]', '{stand-in}/suppliers');
        $this->press('Try it');
        $this->see('[data-test=outside-tried]', 'Brackwater Rope');
    }
}
