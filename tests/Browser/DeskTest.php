<?php

declare(strict_types=1);

namespace Sorvel\Tests\Browser;

use Facebook\WebDriver\WebDriverBy;
use Facebook\WebDriver\WebDriverKeys;

/** A day on the desk: the list, its cells, many at once, a second page beside it, notes and watching. */
final class DeskTest extends BrowserTestCase
{
    public function test_a_list_is_filtered_by_lines_saved_as_a_view_and_opened_again(): void
    {
        $this->signIn('rafi');
        $this->go('/tickets?type=fault');
        $this->choose('[aria-label="Add a filter line"]', 'Priority');
        $this->click('[data-radix-popper-content-wrapper] label:nth-of-type(3) input');
        $this->keys(WebDriverKeys::ESCAPE);
        $this->see('[data-test=filter-lines]', 'Priority');
        self::until(fn (): bool => (int) $this->find('[data-test=ticket-count]')->getText() > 0 && (int) $this->find('[data-test=ticket-count]')->getText() < 170, 'the list is shorter');
        $count = $this->find('[data-test=ticket-count]')->getText();
        $this->click('[aria-label=Views]');
        $this->press('Save this list as a view');
        $this->find('[data-test=name-view] input:not([type])')->sendKeys('Urgent faults');
        $this->press('Save view');
        $this->see('[aria-label=Views]', 'Urgent faults');
        $this->go('/tickets');
        $this->click('[aria-label=Views]');
        $this->press('Urgent faults');
        $this->see('[data-test=ticket-count]', $count);
        $this->see('[data-test=filter-lines]', 'Urgent');
    }

    public function test_a_cell_of_the_list_is_held_to_guards_and_can_be_taken_back(): void
    {
        $this->signIn('rafi');
        $this->go('/tickets?type=proposal&columns=title,score,benefit&sort=number');
        // a guard keeps the score read-only, in the list as on the page
        $this->at('P-1 score');
        $this->keys(WebDriverKeys::ENTER);
        $this->see('[data-test=cell-locked]', 'The score follows from the four answers.');
        $this->keys(WebDriverKeys::ESCAPE);

        $this->go('/tickets?type=fault&columns=title,state,hours_down,also_aboard&sort=number&lines='.rawurlencode('[{"field":"state","is":"any","of":["logged"]}]'));
        $row = explode(' ', (string) $this->find('[data-cell$=" hours_down"]')->getAttribute('data-cell'))[0];
        $before = $this->find("[data-cell='$row hours_down']")->getText();
        $this->at("$row hours_down");
        $this->keys('e');
        $this->retype('[data-test=cell-edit] input', '-3');
        $this->see('[data-test=cell-edit]', '-3 is less than 0');
        $this->retype('[data-test=cell-edit] input', '77');
        $this->press('Save');
        $this->see('[data-test=list-note]', $row.': hours down');
        $this->see("[data-cell='$row hours_down']", '77');
        $this->press('Undo');
        $this->see("[data-cell='$row hours_down']", $before);
        // a move that the definition does not know is not offered
        $this->at("$row state");
        $this->keys('e');
        $this->choose('[data-test=cell-edit] select', 'Fixed');
        $this->see('[data-test=cell-edit]', 'there is no move from "Logged" to "Fixed"');
    }

    public function test_many_are_changed_at_once_after_a_look_at_what_it_comes_to(): void
    {
        $this->signIn('rafi');
        $this->go('/tickets?type=fault&columns=title,state,progress&sort=-number&lines='.rawurlencode('[{"field":"state","is":"any","of":["logged"]}]'));
        $boxes = fn (): array => $this->all('tbody input[type=checkbox]');
        self::until(fn (): bool => count($boxes()) > 3, 'tickets are listed');
        $boxes()[0]->click();
        $boxes()[1]->click();
        $this->press('Change 2');
        $this->choose('[aria-label="Field to change"]', 'State');
        $this->choose('[data-test=bulk] [data-field=state]', 'Under way');
        $this->press('Show what it comes to');
        $this->see('[data-test=bulk-sum]', '2 would change');
        $this->see('[data-test=bulk]', 'progress 0 % → 30 %');
        $this->press('Change 2 tickets');
        $this->see('[data-test=bulk-sum]', '2 saved');
    }

    public function test_what_another_does_appears_without_a_reload(): void
    {
        $this->signIn('rafi');
        $second = $this->open();
        $this->signIn('ines', $second);
        $this->go('/tickets?new=fault');
        $this->find('[aria-label=Title]')->sendKeys('Siren stuck');
        $this->choose('[data-field=vessel]', 'Marsh Wren · V-03');
        $this->press('Create');
        $id = $this->find('[data-test=ticket-page] .mono')->getText();
        $this->see('[data-test=field-headline]', 'Siren stuck, Marsh Wren');
        $this->click('[data-test=watching]');
        $this->press('Watch it: tell me what others do');
        $this->see('[data-test=watching]', 'You watch');
        $this->keys(WebDriverKeys::ESCAPE);

        // the vessel is renamed on the second page; what mirrors and derives from it follows on the first
        $this->go('/registers/vessel/V-03', $second);
        $this->retype('[data-test=record-sheet] [data-field=name]', 'Marsh Wren III', $second);
        $this->retype('[data-test=record-sheet] [data-field=berths]', '33', $second);
        $this->press('Save 2 edits', $second);
        $this->see('[data-test=field-headline]', 'Siren stuck, Marsh Wren III');
        $this->see('[data-test=field-berths]', '33');

        // notes of others are news to whoever watches
        $this->go('/reports');
        $this->go('/tickets/'.$id, $second);
        $this->find('[aria-label=Note]', $second)->sendKeys('Bring the long ladder.');
        $this->press('Add note', $second);
        $this->see('[data-test=history]', 'Bring the long ladder.', $second);
        $this->click('[data-test=news]');
        $this->press('Siren stuck');
        $this->see('[data-test=history]', 'Bring the long ladder.');
    }

    public function test_reports_lead_to_the_tickets_behind_a_figure(): void
    {
        $this->signIn('rafi');
        $this->go('/reports/fault');
        $row = $this->find('[data-test=report-states] tr');
        $figure = trim((string) $row->findElements(WebDriverBy::cssSelector('td'))[1]->getText());
        $row->findElement(WebDriverBy::cssSelector('a'))->click();
        $this->see('[data-test=ticket-count]', $figure);
        $this->go('/reports/proposal');
        $this->see('[data-test=report-ranking]', 'P-');
        $this->find('.recharts-bar-rectangle');
    }

    private function at(string $cell): void
    {
        $this->find("[data-cell='$cell']")->click();
        $this->find('[data-test=ticket-grid]');
        // the click may have met the link in the cell's own text; the list has the focus for its keys
        $this->browser->executeScript('document.querySelector("[data-test=ticket-grid]").focus()');
    }
}
