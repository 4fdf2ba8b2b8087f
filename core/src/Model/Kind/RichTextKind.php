<?php

declare(strict_types=1);

namespace Sorvel\Core\Model\Kind;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Viewer;
use Symfony\Component\HtmlSanitizer\HtmlSanitizer;
use Symfony\Component\HtmlSanitizer\HtmlSanitizerConfig;

/** Marked-up text, stored as HTML from which all but plain marks is taken out, whoever writes it. */
final class RichTextKind implements FieldKind
{
    public const MAX = 200_000;

    private static ?HtmlSanitizer $sanitizer = null;

    public function fit(mixed $value, Field $field, Viewer $viewer, bool $byRule): string
    {
        if (! is_string($value) || ! mb_check_encoding($value, 'UTF-8')) {
            throw new Misfit('it must be a text.');
        }
        if (mb_strlen($value) > self::MAX) {
            throw new Misfit(sprintf('it has %s characters; at most %s fit.', number_format(mb_strlen($value)), number_format(self::MAX)));
        }

        return trim(self::sanitizer()->sanitize($value));
    }

    public function seen(mixed $stored, Field $field, Viewer $viewer, string $path): mixed
    {
        return $stored;
    }

    private static function sanitizer(): HtmlSanitizer
    {
        if (self::$sanitizer === null) {
            $config = (new HtmlSanitizerConfig)->allowLinkSchemes(['https', 'http', 'mailto'])->withMaxInputLength(-1);
            foreach (['p', 'br', 'b', 'strong', 'i', 'em', 'u', 's', 'code', 'pre', 'blockquote', 'ul', 'ol', 'li', 'h3', 'h4', 'hr'] as $element) {
                $config = $config->allowElement($element);
            }
            // what stands in other marks stays, their marks go; scripts and styles go with all that is in them
            foreach (['div', 'span', 'section', 'article', 'font', 'center', 'table', 'tbody', 'thead', 'tr', 'td', 'th', 'h1', 'h2', 'h5', 'h6', 'html', 'body'] as $element) {
                $config = $config->blockElement($element);
            }
            $config = $config->allowElement('a', ['href', 'title'])->forceAttribute('a', 'rel', 'noopener noreferrer');
            self::$sanitizer = new HtmlSanitizer($config);
        }

        return self::$sanitizer;
    }

    public function words(mixed $stored, Field $field, Viewer $viewer): string
    {
        return self::plain(is_string($stored) ? $stored : '');
    }

    public function read(string $words, Field $field, Viewer $viewer): string
    {
        $paragraphs = preg_split('~\n{2,}~', str_replace("\r\n", "\n", $words)) ?: [];

        return implode('', array_map(fn (string $p): string => '<p>'.str_replace("\n", '<br>', htmlspecialchars($p, ENT_NOQUOTES | ENT_HTML5)).'</p>', $paragraphs));
    }

    /** Without marks; paragraphs and list entries on lines of their own. */
    public static function plain(string $rich): string
    {
        // what is no text of it: code, styles, what stands before the body, remarks
        $text = (string) preg_replace(['~<(script|style|head|template)\b.*?(?:</\1\s*>|$)~is', '~<!--.*?(?:-->|$)~s', '~\r\n?~'], ['', '', "\n"], $rich);
        $lines = (string) preg_replace('~<(?:br|/p|/div|/tr|/li|/h[1-6])\b[^>]*>~i', "\n", $text);
        $plain = str_replace("\u{a0}", ' ', html_entity_decode(strip_tags($lines), ENT_QUOTES | ENT_HTML5, 'UTF-8'));

        return trim((string) preg_replace(['~[ \t]+\n~', '~\n{3,}~'], ["\n", "\n\n"], $plain));
    }
}
