<?php

/**
 * php.php ROOT [--loader FILE]: what does not hold between the declarations and calls of the PHP below ROOT, a line each.
 *
 * Parsed alone, each file may be fine; here they are held against each other: names that nobody declares, members that an
 * interface wants, signatures against those they override, arguments against parameters, variables and properties that
 * nothing gives a value. Something is said only where every base of a type is known. FILE, included first, tells what
 * libraries declare.
 */

declare(strict_types=1);

error_reporting(E_ALL & ~E_DEPRECATED);
ini_set('memory_limit', '-1');
require_once 'PhpParser/autoload.php';
require_once __DIR__ . '/php/Reader.php';
require_once __DIR__ . '/php/Variables.php';
require_once __DIR__ . '/php/Declared.php';
require_once __DIR__ . '/php/Signatures.php';
require_once __DIR__ . '/php/Calls.php';

use PhpParser\NodeTraverser;
use PhpParser\NodeVisitor\NameResolver;
use PhpParser\ParserFactory;

function sources(string $root): array
{
    $found = [];
    $all = new RecursiveIteratorIterator(new RecursiveDirectoryIterator($root, FilesystemIterator::SKIP_DOTS));
    foreach ($all as $file) {
        if ($file->isFile() && preg_match("/\\.(php|inc)$/", $file->getFilename()) && strpos($file->getPathname(), '/.git/') === false) {
            $found[] = $file->getPathname();
        }
    }
    sort($found);
    return $found;
}

/** What one file declares and calls: `Reader` with what it found, its complaints apart. */
function read_file(string $path): Reader
{
    static $parser = null;
    $parser ??= (new ParserFactory())->create(ParserFactory::PREFER_PHP7);
    $reader = new Reader();
    try {
        $tree = $parser->parse(file_get_contents($path));
        foreach ([new NameResolver(), $reader] as $visitor) { // one after the other: heads name types before they are entered
            $traverser = new NodeTraverser();
            $traverser->addVisitor($visitor);
            $tree = $traverser->traverse($tree);
        }
    } catch (Throwable $error) {
        $reader->complaints[] = 'does not parse: ' . $error->getMessage();
    }
    return $reader;
}

function twice(array $readers): array
{
    $places = [];
    foreach ($readers as $file => $reader) {
        foreach ($reader->types as $type) {
            if (!str_starts_with($type['name'], NAMELESS)) {
                $places[strtolower($type['name'])][] = $file;
            }
        }
    }
    $said = fn ($name, $files) => "$name is declared twice: " . implode(', ', $files);
    $more = array_filter($places, fn ($files) => count($files) > 1);
    return array_map($said, array_keys($more), $more);
}

$root = rtrim($argv[1], '/');
for ($at = 2; $at + 1 < $argc; $at += 2) {
    @include_once $argv[$at + 1];
}
$readers = [];
foreach (sources($root) as $path) {
    $readers[substr($path, strlen($root) + 1)] = read_file($path);
}
$declared = new Declared(array_merge(...array_values(array_map(fn ($reader) => $reader->types, $readers)) ?: [[]]));
$complaints = twice($readers);
foreach ($readers as $file => $reader) {
    if (strpos("/$file", '/vendor/') !== false) {
        continue;
    }
    $said = $reader->complaints;
    foreach ($reader->types as $type) {
        $said = [...$said, ...(new Signatures($declared))->of($type)];
    }
    $calls = new Calls($declared, array_column($reader->types, null, 'name'));
    foreach ($reader->sites as $site) {
        $said = [...$said, ...$calls->of($site)];
    }
    $complaints = [...$complaints, ...array_map(fn ($line) => "$file: $line", $said)];
}
sort($complaints);
foreach ($complaints as $line) {
    echo str_replace("\n", ' ', $line), "\n";
}
