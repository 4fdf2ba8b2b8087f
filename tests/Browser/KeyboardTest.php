<?php

declare(strict_types=1);

namespace Sorvel\Tests\Browser;

use Facebook\WebDriver\WebDriverKeys as Key;

/** No mouse: from signing in to a changed, pasted, moved and undone grid. */
final class KeyboardTest extends BrowserTestCase
{
    public function test_the_grid_is_driven_by_the_keyboard_alone(): void
    {
        $this->signIn('ines');
        $this->chord('k', Key::CONTROL);
        self::until(fn (): bool => $this->browser->switchTo()->activeElement()->getTagName() === 'input', 'the palette takes the keys');
        $this->keys('rank a fault', Key::ENTER);
        $this->see('[data-test=rule-sheet]', 'Also touch these fields');
        $this->tabTo('grid');

        // arrows, typing, Enter
        $this->keys(Key::ARROW_RIGHT, Key::ARROW_RIGHT, Key::ARROW_DOWN);
        $this->keys('s', 'o', 'o', Key::ENTER);
        $this->see('[data-test=cell-2-3]', 'Soon');
        self::assertSame('true', $this->find('[data-test=cell-3-3]')->getAttribute('data-at'), 'Enter goes down');

        // Tab, E to open the cell as it is, Esc to leave it so
        $this->keys(Key::TAB);
        self::assertSame('true', $this->find('[data-test=cell-3-4]')->getAttribute('data-at'));
        $this->keys('e');
        self::assertSame('-', $this->find('[data-test=cell-input]')->getText());
        $this->keys('nonsense(', Key::ESCAPE);
        $this->see('[data-test=cell-3-4]', '–');

        // an error as it is typed, at its cell, and nothing saved
        $this->keys('"');
        $this->keys('open');
        $this->see('[data-test=cell-3-4] [role=alert]', 'This text has no closing quote');
        $this->keys(Key::ESCAPE);

        // a list of proposals, walked with the arrows
        $this->keys(Key::ARROW_LEFT, Key::ENTER, Key::ARROW_DOWN, Key::ARROW_DOWN, Key::ENTER);
        $this->see('[data-test=cell-3-3]', 'Soon');

        // a block is copied and pasted, a new row added, moved and removed
        $this->keys(Key::ARROW_UP, Key::ARROW_UP);
        $this->chord(Key::ARROW_RIGHT, Key::SHIFT);
        $this->chord('c', Key::CONTROL);
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->find('[data-test=row-7]');
        $this->keys(Key::ARROW_RIGHT, Key::ARROW_RIGHT);
        $this->chord('v', Key::CONTROL);
        $this->see('[data-test=cell-3-3]', 'Soon');
        $this->see('[data-test=cell-3-4]', 'sailing');
        $this->chord(Key::ARROW_UP, Key::ALT);
        $this->see('[data-test=cell-2-4]', 'sailing');
        $this->see('[data-test=cell-2-1]', 'anything else');
        $this->chord(Key::BACKSPACE, Key::CONTROL);
        self::until(fn (): bool => count($this->browser->findElements(\Facebook\WebDriver\WebDriverBy::cssSelector('[data-test=row-7]'))) === 0, 'the row is gone');

        // Delete empties; undo and redo walk back and forth over all of it
        $this->keys(Key::DELETE);
        $undone = 0;
        while (! str_contains($this->find('[data-test=draft-state]')->getText(), 'is edition')) {
            self::assertLessThan(12, ++$undone, 'every step can be undone');
            $this->chord('z', Key::CONTROL);
            $this->see('[data-test=save-state]', 'saved');
            usleep(150_000);
        }
        self::assertGreaterThan(5, $undone);
        $this->see('[data-test=cell-2-3]', 'Urgent');
        $this->chord('z', Key::CONTROL, Key::SHIFT);
        $this->see('[data-test=cell-2-3]', 'Soon');
        // saved before the next step, so that what is said below cannot be from before it
        $this->see('[data-test=draft-state]', '1 change');
        $this->see('[data-test=save-state]', 'saved');
        $this->chord('z', Key::CONTROL);
        $this->see('[data-test=cell-2-3]', 'Urgent');
        // the next test begins with what is saved
        $this->see('[data-test=draft-state]', 'is edition');
    }

    public function test_samples_screens_and_rules_are_reached_by_keys(): void
    {
        $this->signIn('ines');
        $this->browser->executeScript('document.activeElement.blur()');
        $this->see('[data-test=sample-bar]', 'agrees');
        // its title alone: what it came to and whether it is being replayed change by themselves
        $inHand = fn (): string => $this->find('[data-test=sample-bar] a')->getText();
        $before = $inHand();
        self::assertNotSame('', $before);
        $this->keys(']');
        self::until(fn (): bool => $inHand() !== $before, 'the next sample is in hand');
        $this->keys('[');
        self::until(fn (): bool => $inHand() === $before, 'the first one is back');
        $this->keys('t');
        $this->see('[data-test=sample-bar] [data-test=trace]', 'Pass 1');
        $this->keys('t', 'g', 'f');
        $this->see('main', 'Written by');
        $this->keys('g', 'r');
        $this->find('[data-test=rule-rank_fault]');
        $this->browser->executeScript('document.querySelector("[data-test=rule-rank_fault]").focus()');
        $this->chord(Key::ARROW_UP, Key::ALT);
        $this->see('[data-test=draft-state]', '1 change');
        self::until(fn (): bool => $this->find('[data-test=replay-grid] tbody tr:nth-child(2)')->getAttribute('data-rule') === 'rank_fault', 'the rule has moved up');
        $this->chord(Key::ARROW_DOWN, Key::ALT);
        $this->see('[data-test=draft-state]', 'is edition');
    }

    private function tabTo(string $test): void
    {
        for ($i = 0; $i < 80; $i++) {
            if ($this->browser->switchTo()->activeElement()->getAttribute('data-test') === $test) {
                return;
            }
            $this->keys(Key::TAB);
        }
        self::fail("Tab never reached $test.");
    }
}
