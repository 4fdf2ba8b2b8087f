<?php

declare(strict_types=1);

namespace Sorvel\Tests\Browser;

use Facebook\WebDriver\WebDriverKeys as Key;
use Sorvel\Tests\DemoDatabase;

/** Formulas are written with help. */
final class FormulaTest extends BrowserTestCase
{
    public function test_a_path_is_completed_by_keyboard(): void
    {
        $this->signIn('ines');
        $this->go('/rulebook/own_fault');
        $this->cell('cell-3-3');
        $this->keys('v', 'e', 's', 's', 'e', 'l', '.');
        $this->see('[data-test=cell-3-3] [role=listbox]', 'Superintendent · person');
        $this->keys('s', 'u', Key::ARROW_DOWN, Key::ENTER);
        self::assertSame('vessel.superintendent', $this->find('[data-test=cell-input]')->getText());
        $this->keys(Key::ENTER);
        $this->see('[data-test=cell-3-3]', 'vessel.superintendent');
        $this->see('[data-test=save-state]', 'saved');
    }

    public function test_an_unknown_option_is_mended_by_its_proposal(): void
    {
        $this->signIn('ines');
        $this->go('/rulebook/rank_fault');
        $this->cell('cell-1-3');
        $this->keys('"', 'u', 'r', 'g', 'n', 't', '"');
        $this->see('[data-test=cell-1-3] [role=alert]', 'did you mean "urgent"');
        $this->chord(Key::ENTER, Key::ALT);
        self::assertSame('"urgent"', $this->find('[data-test=cell-input]')->getText());
        $this->keys(Key::ENTER);
        $this->see('[data-test=cell-1-3]', 'Urgent');
        $this->chord('z', Key::CONTROL);
        $this->see('[data-test=cell-1-3]', 'Sailing at risk');
    }

    public function test_a_condition_is_completed_and_its_errors_are_told(): void
    {
        $this->signIn('ines');
        $this->go('/rulebook/rank_fault');
        $this->press('as a formula');
        $this->click('[aria-label="Only if"]');
        $this->chord('a', Key::CONTROL);
        $this->keys('s', 't', 'a', 't', 'e', ' ', '!', '=', ' ');
        $this->see('[role=listbox]', 'Waiting for parts');
        $this->keys(Key::ARROW_DOWN, Key::ARROW_DOWN, Key::ENTER);
        self::assertSame('state != "under_way"', $this->find('[aria-label="Only if"]')->getText());
        $this->keys(Key::ENTER);
        $this->see('[data-test=sentence]', 'only if state is not under way');
        $this->see('[data-test=save-state]', 'saved');
        // a fresh page, so that nothing of the save is still on its way
        $this->go('/rulebook/rank_fault');
        $this->see('[data-test=sentence]', 'only if state is not under way');
        $this->click('[aria-label="Only if"]');
        $this->chord('a', Key::CONTROL);
        $this->keys('1', ' ', '<', ' ', '2');
        $this->see('[data-test=rule-sheet] [role=alert]', 'always yes');
        $this->keys(Key::ESCAPE);
        $this->chord('a', Key::CONTROL);
        $this->keys('l', 'i', 's', 't', ' ', 'c', 'o', 'n', 't', 'a', 'i', 'n', 's', '(');
        $this->see('[data-test=signature]', 'list contains(list, element)');
        $this->see('[data-test=signature]', 'as in list contains(');
        $this->keys(Key::ESCAPE);
    }

    public function test_a_condition_switches_between_lines_and_formula_without_loss(): void
    {
        DemoDatabase::restore();
        $this->signIn('ines');
        $this->go('/rulebook/rank_fault');
        $this->press('as a formula');
        $this->click('[aria-label="Only if"]');
        $this->chord('a', Key::CONTROL);
        $written = 'state  !=  "closed" and (impact in ("sailing", "boarding") or not(vessel.in_service))';
        $this->keys($written, Key::ENTER);
        $this->see('[data-test=save-state]', 'saved');
        $this->press('as lines');
        self::until(fn (): bool => count($this->all('[data-test=line]')) === 3, 'three lines');
        $this->see('[data-test=condition]', 'The next sailing, Boarding');
        $this->see('[data-test=line]:first-child', '✓');
        $this->press('as a formula');
        self::assertSame($written, $this->find('[aria-label="Only if"]')->getDomProperty('textContent'), 'looking at lines changes nothing');

        // a line edited is the formula edited
        $this->press('as lines');
        $this->choose('[aria-label="Value for State"]', 'Under way');
        $this->choose('[aria-label="Test of In service"]', 'is yes');
        $this->press('as a formula');
        $this->see('[aria-label="Only if"]', 'state != "under_way" and (impact in ("sailing", "boarding") or vessel.in_service)');
        $this->see('[data-test=save-state]', 'saved');

        // a line added with its pickers; it counts once it has a value
        $this->press('as lines');
        $this->click('[data-test=add-line]');
        $this->keys('hours', Key::ENTER);
        $this->see('[data-test=condition]', 'counts once it has a value');
        $this->choose('[aria-label="Test of Hours down"]', 'is at least');
        $this->find('[aria-label="Value for Hours down"]')->sendKeys('2,5'.Key::ENTER);
        $this->press('as a formula');
        $this->see('[aria-label="Only if"]', 'and hours_down >= 2.5');
        $this->see('[data-test=save-state]', 'saved');

        // what lines cannot show stays a formula, and says why
        $this->click('[aria-label="Only if"]');
        $this->chord('a', Key::CONTROL);
        $this->keys('state != "closed" // as ever', Key::ENTER);
        $this->see('[data-test=save-state]', 'saved');
        self::until(fn (): bool => str_contains((string) $this->find('[aria-label="as lines"]')->getAttribute('title'), 'comment'), 'it says why there are no lines');
        for ($i = 0; $i < 5; $i++) {
            $this->browser->executeScript('document.activeElement.blur()');
            $this->chord('z', Key::CONTROL);
        }
        $this->see('[data-test=draft-state]', 'is edition');
    }

    public function test_a_text_is_put_together_from_parts(): void
    {
        DemoDatabase::restore();
        $this->signIn('ines');
        $this->browser->executeScript("sessionStorage.setItem('in hand', 'urgent_request_is_answered_tomorrow')");
        $this->go('/rulebook/promise_answer');
        $this->cell('cell-1-1');
        $this->keys('e');
        $this->find('[data-test=cell-input]');
        $this->chord('t', Key::ALT);
        $this->see('[data-test=composer]', 'day of week(by)');
        $this->press('+ text');
        $this->keys(' Asked by ');
        $this->press('Add a field');
        $this->keys('requester', Key::ENTER);
        $this->see('[data-test=composed]', 'Asked by');
        $this->press('Keep this text');
        self::until(fn (): bool => str_contains((string) $this->find('[data-test=cell-1-1]')->getDomProperty('textContent'), '+ " Asked by " + (if requester.name = null then "" else requester.name)'), 'the text is kept as a formula');
        $this->see('[data-test=save-state]', 'saved');
        $this->browser->executeScript('document.activeElement.blur()');
        $this->chord('z', Key::CONTROL);
        $this->see('[data-test=draft-state]', 'is edition');
    }

    public function test_a_name_says_what_it_stands_for(): void
    {
        $this->signIn('ines');
        $this->go('/rulebook/own_fault');
        $this->click('[aria-label="Value of keeper"]');
        $this->keys(Key::END);
        $this->see('[data-test=told]', 'Keeper · a person');
        $this->keys(Key::ESCAPE);
    }

    public function test_a_field_takes_another_key_everywhere(): void
    {
        DemoDatabase::restore();
        $this->signIn('ines');
        $this->go('/fields?q=hours_down');
        $this->press('hours_down');
        $this->see('[data-test=key-dialog]', 'Rank a fault by what it stops');
        $this->retype('[aria-label="New key"]', 'impact');
        $this->press('Change the key everywhere');
        $this->see('[data-test=key-dialog] [role=alert]', 'already a field');
        $this->retype('[aria-label="New key"]', 'hours_out'.Key::ENTER);
        $this->see('[data-test=draft-state]', '4 changes');
        $this->go('/rulebook/rank_fault');
        $this->see('[data-test=rule-sheet]', 'hours_out');
        $this->go('/fields?q=hours_out');
        $this->press('hours_out');
        $this->retype('[aria-label="New key"]', 'hours_down'.Key::ENTER);
        $this->see('[data-test=draft-state]', 'is edition');
    }

    public function test_every_function_has_examples_that_run_in_the_help(): void
    {
        $this->signIn('ines');
        $this->go('/formulas?q=string%20join');
        $this->click('[data-test=example] .link');
        $this->see('[data-test=example]', '→ "a, b"');
        $this->find('[aria-label="Try a formula"]')->sendKeys('day of week(@"2027-03-04")'.Key::ENTER);
        $this->see('[data-test=tried]', '→ "Thursday"');
        $this->find('[aria-label="Try a formula"]')->sendKeys(' +'.Key::ENTER);
        $this->see('[data-test=tried]', 'Expected a value');
    }
}
