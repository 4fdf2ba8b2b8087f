<?php

declare(strict_types=1);

namespace Sorvel\Tests\Browser;

/** Every screen opens, without a script error, and with nothing that keeps people out (WCAG 2.2 AA, by axe). */
final class ScreensTest extends BrowserTestCase
{
    public function test_every_screen_opens_and_can_be_used_by_all(): void
    {
        $axe = (string) file_get_contents(dirname(__DIR__, 2).'/web/node_modules/axe-core/axe.min.js');
        $this->signIn('greta');
        $screens = ['/rulebook' => '[data-test=replay-grid]', '/rulebook/own_fault' => '[data-test=margin-hit]', '/tables' => '.ledger', '/tables/effort_points' => '[data-test=grid]', '/samples' => '.ledger', '/samples/comfort_for_a_day' => '[data-test=trace]', '/fields' => '.ledger', '/editions' => '[data-test=edition-1]', '/formulas' => '[data-test=example]', '/tickets' => '[data-test^=ticket-F]', '/fields/fault/impact' => '[data-test=field-sheet]', '/fields/refit_task' => '[data-test=moves-diagram]', '/registers/area?as=tree' => '[data-test=tree]', '/registers/supplier' => '[data-test=outside-state]', '/imports' => '.ledger', '/reports/fault' => '.recharts-bar-rectangle', '/ask?type=fault' => '[data-test=question-impact]', '/mirrors' => '[data-test=out-of-line]', '/guards' => 'main', '/tickets/F-12' => '[data-test=history]', '/tickets?new=proposal' => '[data-test=new-ticket]', '/runs' => '[data-test=run]', '/inbox' => 'main', '/inbox?box=mail' => '[data-test=outgoing-mail]', '/inbox?box=call' => '[data-test=outgoing-call]', '/inbox?box=addresses' => '[data-test=addresses]', '/rulebook/put_off' => '[data-test=fits-now]', '/samples/order_goes_wrong_and_right' => '[data-test=done-calls]'];
        foreach ($screens as $path => $mark) {
            $this->go($path);
            $this->find($mark);
            $this->browser->executeScript($axe);
            /** @var list<array{id: string, nodes: list<array{html: string, failureSummary: string}>}> $violations */
            $violations = $this->browser->executeAsyncScript('const done = arguments[arguments.length - 1]; axe.run(document, {runOnly: ["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"]}).then(r => done(r.violations))');
            $told = array_map(fn (array $v): string => $v['id'].': '.$v['nodes'][0]['html'].' '.$v['nodes'][0]['failureSummary'], $violations);
            self::assertSame([], $told, $path);
        }
        $severe = array_filter($this->browser->manage()->getLog('browser'), fn (array $entry): bool => $entry['level'] === 'SEVERE');
        self::assertSame([], array_column($severe, 'message'));
    }

    public function test_what_is_not_there_is_told(): void
    {
        $this->signIn('greta');
        $this->go('/rulebook/nothing');
        $this->see('main', 'There is no rule “nothing”.');
        $this->go('/tables/nothing');
        $this->see('main', 'There is no table “nothing”.');
        $this->go('/tickets/F-99999');
        $this->see('main', 'There is no ticket "F-99999".');
        $this->go('/samples/nothing');
        $this->see('main', 'There is no sample “nothing”');
    }

    public function test_a_requester_and_an_agent_see_what_is_theirs(): void
    {
        $this->browser->get(getenv('SORVEL_URL').'/');
        $this->find('input[name=email]')->sendKeys('kit@tolvane.example');
        $this->find('input[name=password]')->sendKeys("ferry-demo\n");
        $this->see('main', 'What is it about?');
        self::assertSame([], $this->all('.rail'), 'and nothing else');
        $this->go('/rulebook');
        $this->see('main', 'What is it about?');
        $this->press('Signed in as Kit Harrow');
        $this->press('Sign out');
        $this->find('input[name=email]');
        $this->signIn('rafi');
        self::assertStringNotContainsString('Rulebook', $this->find('nav')->getText());
        $this->go('/rulebook');
        $this->see('main', 'This screen is for builders.');
    }
}
