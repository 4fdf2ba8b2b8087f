<?php

declare(strict_types=1);

namespace Sorvel\Tests\Browser;

use Facebook\WebDriver\WebDriverBy;

/** The requester's form, and what becomes of a ticket as they see it. */
final class AskTest extends BrowserTestCase
{
    public function test_a_form_with_limited_choices_is_sent_and_answered(): void
    {
        $this->browser->get(getenv('SORVEL_URL').'/');
        $this->find('input[name=email]')->sendKeys('kit@tolvane.example');
        $this->browser->findElement(WebDriverBy::name('password'))->sendKeys("ferry-demo\n");
        $this->see('[data-test=ask-form]', 'What does it stop?');
        self::assertStringNotContainsString('Claim number', $this->find('body')->getText());
        self::assertStringNotContainsString('claim_number', (string) $this->browser->executeScript('return document.documentElement.outerHTML'));

        $this->find('[data-field=title]')->sendKeys('Ram leaks at the ramp');
        $this->choose('[data-field=impact]', 'Boarding');
        $parts = fn (): array => array_map(fn ($o): string => $o->getText(), $this->all('[data-field=part] option'));
        self::until(fn (): bool => count($parts()) > 4, 'every part can be chosen');
        $this->choose('[data-field=part]', 'Deck light · PT-07');
        $this->choose('[data-field=part_family]', 'Hydraulics · PF-2');
        // the parts follow the family, and the one chosen before does not fit any more
        $this->see('[data-test=question-part]', 'Only parts of the chosen family fit.');
        self::until(fn (): bool => array_values(array_filter($parts(), fn (string $p): bool => str_contains($p, 'PT-0'))) === ['Ram seal 80 mm · PT-02'] || count($parts()) === 3, 'only that of the family remains');
        $this->choose('[data-field=part]', 'Ram seal 80 mm · PT-02');
        self::until(fn (): bool => ! str_contains($this->find('[data-test=question-part]')->getText(), '✕'), 'nothing stands in the way any more');
        $this->press('Send');
        $this->see('[data-test=own-ticket]', 'Sent. Its number is');
        $this->see('[data-test=own-ticket]', 'Urgent');
        $id = (string) $this->find('[data-test=own-ticket] b.mono')->getText();

        // the staff writes, once for themselves and once for the requester
        $second = $this->open();
        $this->signIn('rafi', $second);
        $this->go('/tickets/'.$id, $second);
        $this->find('[aria-label=Note]', $second)->sendKeys('Third leak this month.');
        $this->press('Add note', $second);
        $this->see('[data-test=history]', 'Third leak', $second);
        $this->find('[aria-label=Note]', $second)->sendKeys('We come with the next ferry.');
        $second->findElement(WebDriverBy::xpath('//label[contains(., "for the requester too")]/input'))->click();
        $this->press('Add note', $second);
        $this->see('[data-test=own-notes]', 'We come with the next ferry.');
        self::assertStringNotContainsString('Third leak', $this->find('body')->getText());
        $this->find('[aria-label="A note to the desk"]')->sendKeys('Thank you.');
        $this->press('Add note');
        $this->see('[data-test=own-notes]', 'Thank you.');
    }
}
