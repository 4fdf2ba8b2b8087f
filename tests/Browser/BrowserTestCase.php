<?php

declare(strict_types=1);

namespace Sorvel\Tests\Browser;

use Facebook\WebDriver\Chrome\ChromeOptions;
use Facebook\WebDriver\Exception\NoSuchElementException;
use Facebook\WebDriver\Exception\StaleElementReferenceException;
use Facebook\WebDriver\Remote\DesiredCapabilities;
use Facebook\WebDriver\Remote\RemoteWebDriver;
use Facebook\WebDriver\Remote\RemoteWebElement;
use Facebook\WebDriver\WebDriverBy;
use Facebook\WebDriver\WebDriverDimension;
use Facebook\WebDriver\WebDriverKeys;
use Facebook\WebDriver\WebDriverSelect;
use PHPUnit\Framework\TestCase;
use Sorvel\Tests\DemoDatabase;

/** Real Chromium on the real application, as a person would use it. */
abstract class BrowserTestCase extends TestCase
{
    /** @var resource|null */
    private static $driver = null;

    private static int $port = 0;

    /** @var list<RemoteWebDriver> */
    private array $browsers = [];

    protected RemoteWebDriver $browser;

    public static function setUpBeforeClass(): void
    {
        DemoDatabase::restore();
        if (self::$driver === null) {
            $socket = stream_socket_server('tcp://127.0.0.1:0');
            self::assertIsResource($socket);
            self::$port = (int) explode(':', (string) stream_socket_get_name($socket, false))[1];
            fclose($socket);
            $process = proc_open(['chromedriver', '--port='.self::$port], [1 => ['file', '/dev/null', 'w'], 2 => ['file', '/dev/null', 'w']], $pipes);
            self::assertIsResource($process);
            self::$driver = $process;
            register_shutdown_function(function () use ($process): void {
                proc_terminate($process);
            });
            self::until(fn (): bool => ($open = @fsockopen('127.0.0.1', self::$port, timeout: 1)) !== false && fclose($open), 'ChromeDriver answers');
        }
    }

    protected function setUp(): void
    {
        $this->browser = $this->open();
    }

    protected function tearDown(): void
    {
        if ($this->status()->isFailure() || $this->status()->isError()) {
            @mkdir(dirname(__DIR__, 2).'/var/failures', 0777, true);
            foreach ($this->browsers as $i => $browser) {
                $browser->takeScreenshot(dirname(__DIR__, 2).'/var/failures/'.$this->name().'-'.$i.'.png');
            }
        }
        foreach ($this->browsers as $browser) {
            $browser->quit();
        }
    }

    protected function open(): RemoteWebDriver
    {
        $options = new ChromeOptions;
        $options->setBinary('/usr/bin/chromium');
        $options->addArguments(['--headless=new', '--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync', '--disable-dev-shm-usage', '--force-prefers-reduced-motion', '--user-data-dir='.sys_get_temp_dir().'/sorvel-'.bin2hex(random_bytes(6))]);
        $capabilities = DesiredCapabilities::chrome();
        $capabilities->setCapability(ChromeOptions::CAPABILITY, $options);
        $capabilities->setCapability('goog:loggingPrefs', ['browser' => 'ALL']);
        $browser = RemoteWebDriver::create('http://127.0.0.1:'.self::$port, $capabilities);
        $browser->manage()->window()->setSize(new WebDriverDimension(1280, 940));

        return $this->browsers[] = $browser;
    }

    protected function signIn(string $person, ?RemoteWebDriver $browser = null): void
    {
        $browser ??= $this->browser;
        $browser->get(getenv('SORVEL_URL').'/');
        $this->find('input[name=email]', $browser)->sendKeys($person.'@tolvane.example');
        $browser->findElement(WebDriverBy::name('password'))->sendKeys('ferry-demo'.WebDriverKeys::ENTER);
        $this->find('[data-test=replayed], [data-test=ticket-count]', $browser);
    }

    protected function go(string $path, ?RemoteWebDriver $browser = null): void
    {
        ($browser ?? $this->browser)->get(getenv('SORVEL_URL').$path);
    }

    protected function find(string $css, ?RemoteWebDriver $browser = null): RemoteWebElement
    {
        $found = null;
        self::until(function () use ($css, $browser, &$found): bool {
            $found = ($browser ?? $this->browser)->findElements(WebDriverBy::cssSelector($css))[0] ?? null;

            return $found !== null;
        }, $css.' is there');

        return $found ?? throw new \LogicException('Waited for it.');
    }

    /** Writes over what stands in an input, as a person does. */
    protected function retype(string $css, string $text, ?RemoteWebDriver $browser = null): void
    {
        $this->find($css, $browser)->sendKeys([WebDriverKeys::CONTROL, 'a']);
        $this->find($css, $browser)->sendKeys($text);
    }

    /** @return list<RemoteWebElement> */
    protected function all(string $css): array
    {
        return array_values($this->browser->findElements(WebDriverBy::cssSelector($css)));
    }

    /** Picks an entry of a select by its words. */
    protected function choose(string $css, string $words): void
    {
        self::until(function () use ($css, $words): bool {
            try {
                (new WebDriverSelect($this->find($css)))->selectByVisibleText($words);

                return true;
            } catch (\Facebook\WebDriver\Exception\WebDriverException) {
                return false;
            }
        }, "$words can be chosen in $css");
    }

    protected function click(string $css, ?RemoteWebDriver $browser = null): void
    {
        self::until(function () use ($css, $browser): bool {
            try {
                $this->find($css, $browser)->click();

                return true;
            } catch (\Facebook\WebDriver\Exception\WebDriverException) {
                return false;
            }
        }, $css.' can be clicked');
    }

    /** Goes to a cell of a grid with a click; what is typed next goes there. */
    protected function cell(string $test, ?RemoteWebDriver $browser = null): void
    {
        $driver = $browser ?? $this->browser;
        self::until(function () use ($test, $browser, $driver): bool {
            // while the sheet still fills, a click may come down where the cell has just been
            $this->click("[data-test=$test]", $browser);
            usleep(200_000);

            return $driver->findElements(WebDriverBy::cssSelector("[data-test=$test][data-at=true]")) !== [];
        }, $test.' is the cell one is at');
    }

    /** A button, a link or a menu entry by its words. */
    protected function press(string $words, ?RemoteWebDriver $browser = null): void
    {
        $path = sprintf('//*[self::button or self::a or @role="menuitem" or @role="option"][contains(normalize-space(.), %1$s) or @aria-label=%1$s]', '"'.$words.'"');
        self::until(function () use ($path, $browser): bool {
            foreach (($browser ?? $this->browser)->findElements(WebDriverBy::xpath($path)) as $element) {
                try {
                    if ($element->isDisplayed() && $element->isEnabled()) {
                        $element->click();

                        return true;
                    }
                } catch (\Facebook\WebDriver\Exception\WebDriverException) {
                    continue;
                }
            }

            return false;
        }, '"'.$words.'" can be pressed');
    }

    protected function see(string $css, string $words, ?RemoteWebDriver $browser = null): void
    {
        $seen = '';
        self::until(function () use ($css, $words, $browser, &$seen): bool {
            $seen = $this->find($css, $browser)->getText();

            return str_contains((string) preg_replace('~\s+~', ' ', $seen), $words);
        }, "$css says \"$words\"", $seen);
    }

    /** Keys go to whatever has the focus, as from a keyboard. */
    protected function keys(string ...$keys): void
    {
        foreach ($keys as $key) {
            $this->browser->getKeyboard()->sendKeys($key);
        }
    }

    protected function chord(string $key, string ...$modifiers): void
    {
        $keyboard = $this->browser->getKeyboard();
        foreach ($modifiers as $modifier) {
            $keyboard->pressKey($modifier);
        }
        $keyboard->sendKeys($key);
        foreach (array_reverse($modifiers) as $modifier) {
            $keyboard->releaseKey($modifier);
        }
    }

    /** @param  callable(): bool  $holds */
    protected static function until(callable $holds, string $what, string &$seen = ''): void
    {
        $end = microtime(true) + 20;
        $now = function () use ($holds): bool {
            try {
                return $holds();
            } catch (NoSuchElementException|StaleElementReferenceException) {
                // the page has drawn anew what was just found
                return false;
            }
        };
        while (! $now()) {
            if (microtime(true) > $end) {
                self::fail("Waited in vain: $what.".($seen === '' ? '' : ' It says: '.$seen));
            }
            usleep(50_000);
        }
        self::assertLessThanOrEqual($end + 10, microtime(true), $what);
    }
}
