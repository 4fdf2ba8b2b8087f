<?php

declare(strict_types=1);

namespace Sorvel\Tests\Browser;

/** What the engine does beside fields, as people meet it: by hand, by mail, by call, and against the live desk. */
final class EngineTest extends BrowserTestCase
{
    public function test_a_rule_is_started_by_hand_from_a_ticket(): void
    {
        $this->signIn('rafi');
        $this->go('/tickets/F-20');
        $this->click('[data-test=start-by-hand]');
        $this->press('Put off a fault');
        $this->find('[data-test=by-hand] input[type=date]')->sendKeys('06012027');
        $this->press('Start');
        $this->see('[data-test=by-hand]', 'Why? must be answered.');
        $this->find('[data-test=by-hand] input:not([type=date])')->sendKeys('No fabric before summer');
        $this->press('Start');
        self::until(fn (): bool => $this->all('[data-test=by-hand]') === [], 'it has been started');
        $this->see('[data-test=field-mend_by]', '2027');
        $this->see('[data-test=history]', 'started a rule by hand');
        $this->see('[data-test=history]', 'We mend it by 2027-06-01: No fabric before summer');
        // and on several of the list
        $this->go('/tickets?type=fault&sort=number&lines='.rawurlencode('[{"field":"state","is":"any","of":["logged"]}]'));
        $this->click('tbody tr:nth-child(1) input[type=checkbox]');
        $this->click('tbody tr:nth-child(2) input[type=checkbox]');
        $this->click('[data-test=start-by-hand]');
        $this->press('Put off a fault');
        $this->see('[data-test=by-hand]', 'On each of 2 tickets.');
        $this->find('[data-test=by-hand] input[type=date]')->sendKeys('06022027');
        $this->find('[data-test=by-hand] input:not([type=date])')->sendKeys('Later');
        $this->press('Start');
        $this->see('[data-test=by-hand]', '2 changed');
    }

    public function test_a_message_becomes_a_ticket_with_clean_text(): void
    {
        $this->signIn('rafi');
        $this->go('/inbox');
        $this->press('Write as somebody outside');
        $this->find('[data-test=write] [aria-label=From]')->sendKeys('kit@tolvane');
        $this->press('It comes in');
        $this->see('[data-test=write]', 'This is not an address.');
        $this->find('[data-test=write] [aria-label=From]')->sendKeys('.example');
        $this->find('[data-test=write] [aria-label=Subject]')->sendKeys('Two coats');
        $this->click('[data-test=write] input[type=checkbox]');
        $this->find('[data-test=write] [aria-label=Body]')->sendKeys('<style>p{color:red}</style><p>Please send <b>two</b> coats.</p><script>document.title="x"</script>');
        $this->press('It comes in');
        $this->see('[data-test=came-to]', 'It came to R-');
        $this->see('[data-test=incoming]', 'Two coats');
        $this->click('[data-test=came-to]');
        $this->see('[data-test=history]', 'Please send two coats.');
        $this->see('[data-test=history]', 'wrote by mail');
        $this->see('[data-test=field-tags]', 'by-mail');
        $text = $this->find('[data-test=ticket-page]')->getText();
        self::assertStringNotContainsString('color:red', $text);
        self::assertStringNotContainsString('document.title', $text);
    }

    public function test_which_records_fit_now_follows_what_is_typed(): void
    {
        $this->signIn('ines');
        $this->go('/rulebook/promise_answer');
        $this->see('[data-test=fits-now]', 'records meet what it asks for');
        $all = (int) $this->find('[data-test=fit-count]')->getText();
        self::assertGreaterThan(20, $all);
        $this->press('formula');
        $this->click('[aria-label="Only if"]');
        $this->keys('need = "kiosk"');
        self::until(fn (): bool => (int) $this->find('[data-test=fit-count]')->getText() < $all, 'fewer fit, before anything is saved');
        $this->see('[data-test=draft-state]', 'is edition');
        $this->keys(\Facebook\WebDriver\WebDriverKeys::ESCAPE);
        self::until(fn (): bool => (int) $this->find('[data-test=fit-count]')->getText() === $all, 'all fit again');
        // the rule on a live ticket, which is not touched by it
        $this->find('[aria-label="Record to try it on"]')->sendKeys('R-1 ');
        $this->see('[data-test=trial]', 'the record was created');
        $this->choose('[aria-label="What is to have happened"]', 'need had just been filled in');
        $this->see('[data-test=trial]', 'The rule is not due.');
    }

    public function test_a_failed_call_ends_in_a_notice(): void
    {
        $this->signIn('ines');
        $this->go('/tickets?new=fault');
        $this->find('[data-test=new-ticket] [aria-label=Title]')->sendKeys('Gearbox worn');
        $this->press('Create');
        $this->find('[data-test=ticket-page]');
        $id = basename((string) parse_url($this->browser->getCurrentURL(), PHP_URL_PATH));
        // what the receiver is told in the fault's details: it turns the order down
        $this->browser->executeAsyncScript('const done = arguments[arguments.length - 1]; (async () => { const s = await (await fetch("/api/session")).json(); const t = await (await fetch("/api/tickets/" + arguments[0])).json(); const put = (values, version) => fetch("/api/tickets/" + arguments[0], {method: "PATCH", headers: {"Content-Type": "application/json", "X-Sorvel-Token": s.token, "If-Match": `"${version}"`}, body: JSON.stringify({values})}); await put({part: "PT-01", details: "stand-in: unknown", state: "under_way"}, t.ticket.version); done(); })()', [$id]);
        $this->go("/tickets/$id");
        $this->click('[data-test=move-waiting_for_parts]');
        $this->press('Save 1 edit');
        $this->see('[data-test=history]', 'A web call came back');
        $this->see('[data-test=history]', 'The order was not taken (404): no such berth.');
        self::until(fn (): bool => $this->all('[data-test=news]') !== [], 'there is news');
        $this->click('[data-test=news]');
        self::until(fn (): bool => array_filter($this->all('[data-test=notice]'), fn ($n): bool => str_contains($n->getText(), 'A call to part_order did not go through')) !== [], 'the owner of the rule is told');
        $this->browser->executeScript('[...document.querySelectorAll("[data-test=notice]")].find((n) => n.textContent.includes("did not go through")).click()');
        $this->find('[data-test=by-rule]');
        // it can be answered by hand
        $this->go('/inbox?box=call');
        $this->see('[data-test=outgoing-call]', 'did not go through (404)');
        $this->click('[data-test=outgoing-call] td:nth-child(3) button');
        $this->retype('[aria-label="Body of the answer"]', '{"number": "by phone"}');
        $this->press('Answer so');
        $this->see('[data-test=outgoing-call]', 'went through (200)');
        $this->go("/tickets/$id");
        $this->see('[data-test=history]', 'Ordered as by phone.');
    }

    public function test_the_sheet_writes_every_kind_of_start_look_up_and_change(): void
    {
        $this->signIn('ines');
        $this->go('/rulebook/weekend_fault');
        $this->press('+ start');
        $this->press('at times');
        $this->see('[data-test=sentence]', 'on workdays at 07:00');
        $this->press('+ start');
        $this->press('a message comes in');
        $this->see('[data-test=sentence]', 'a message comes in about it');
        $this->choose('[aria-label="How often it acts"]', 'once for each record');
        $this->see('[data-test=sentence]', 'once for each');
        $this->press('+ look-up');
        $this->choose('[aria-label="Kind of found1"]', 'the number of');
        $this->choose('[aria-label="Type that found1 looks into"]', 'fault');
        $this->see('[data-test=look-up-found1]', 'reads every fault');
        $this->press('+ action');
        $this->press('a note for the staff');
        $this->see('[data-test=sentence]', 'write a note for the staff');
        $this->press('+ action');
        $this->press('a message by mail');
        $this->see('[data-test=setting-message]', 'requester');
        $this->press('+ change');
        $this->press('by turns in a team');
        $this->see('[data-test=sentence]', 'assign it by turns in Deck support');
        $this->see('[data-test=save-state]', 'saved');
        $this->see('[data-test=draft-state]', '1 change');
        for ($i = 0; $i < 10 && ! str_contains($this->find('[data-test=draft-state]')->getText(), 'is edition'); $i++) {
            $this->press('undo');
            $this->see('[data-test=save-state]', 'saved');
            usleep(300_000);
        }
        $this->see('[data-test=draft-state]', 'is edition');
    }
}
