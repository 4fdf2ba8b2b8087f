<?php

declare(strict_types=1);

namespace Sorvel\Tests\Browser;

use Facebook\WebDriver\WebDriverKeys as Key;

/** Formulas are written with help. */
final class FormulaTest extends BrowserTestCase
{
    public function test_a_path_is_completed_by_keyboard(): void
    {
        $this->signIn('ines');
        $this->go('/rulebook/own_fault');
        $this->click('[data-test=cell-3-3]');
        $this->keys('v', 'e', 's', 's', 'e', 'l', '.');
        $this->see('[data-test=cell-3-3] [role=listbox]', 'Superintendent · person');
        $this->keys('s', 'u', Key::ARROW_DOWN, Key::ENTER);
        self::assertSame('vessel.superintendent', $this->find('[data-test=cell-input]')->getAttribute('value'));
        $this->keys(Key::ENTER);
        $this->see('[data-test=cell-3-3]', 'vessel.superintendent');
        $this->see('[data-test=save-state]', 'saved');
    }

    public function test_an_unknown_option_is_mended_by_its_proposal(): void
    {
        $this->signIn('ines');
        $this->go('/rulebook/rank_fault');
        $this->click('[data-test=cell-1-3]');
        $this->keys('"', 'u', 'r', 'g', 'n', 't', '"');
        $this->see('[data-test=cell-1-3] [role=alert]', 'did you mean "urgent"');
        $this->chord(Key::ENTER, Key::ALT);
        self::assertSame('"urgent"', $this->find('[data-test=cell-input]')->getAttribute('value'));
        $this->keys(Key::ENTER);
        $this->see('[data-test=cell-1-3]', 'Urgent');
        $this->chord('z', Key::CONTROL);
        $this->see('[data-test=cell-1-3]', 'Sailing at risk');
    }

    public function test_a_condition_is_completed_and_its_errors_are_told(): void
    {
        $this->signIn('ines');
        $this->go('/rulebook/rank_fault');
        $this->click('[aria-label="Only if"]');
        $this->chord('a', Key::CONTROL);
        $this->keys('s', 't', 'a', 't', 'e', ' ', '!', '=', ' ');
        $this->see('[role=listbox]', 'Waiting for parts');
        $this->keys(Key::ARROW_DOWN, Key::ARROW_DOWN, Key::ENTER);
        self::assertSame('state != "under_way"', $this->find('[aria-label="Only if"]')->getAttribute('value'));
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
        $this->see('[role=listbox]', 'list contains(list, element)');
        $this->keys(Key::ESCAPE);
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
