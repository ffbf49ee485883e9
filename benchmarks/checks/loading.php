<?php

/**
 * loading.php ROOT LOADER: the types below ROOT that the application's own loader does not find, a line each.
 *
 * LOADER is the file that registers it. Each class, interface and trait that stands alone in its file is asked for in a
 * process of its own, as a program does that meets its name first.
 */

declare(strict_types=1);

const DECLARES = '/^\s*(?:(?:abstract|final|readonly)\s+)*(?:class|interface|trait)\s+(\w+)/mi';

function found_by(string $loader, string $type): bool
{
    error_reporting(0);
    require_once $loader;
    return class_exists($type) || interface_exists($type) || trait_exists($type);
}

/** The one type that a file declares, with its namespace; '' for none or several. */
function type_of(string $path): string
{
    $text = php_strip_whitespace($path);
    preg_match_all(DECLARES, preg_replace('/[;{}]/', "\n", $text), $declared);
    $space = preg_match('/namespace\s+([\w\\\\]+)\s*;/', $text, $found) ? $found[1] . '\\' : '';
    return count($declared[1]) === 1 ? $space . $declared[1][0] : '';
}

[, $root, $loader] = $argv;
if (isset($argv[3])) {
    exit(found_by($loader, $argv[3]) ? 0 : 1);
}
$complaints = [];
foreach (new RecursiveIteratorIterator(new RecursiveDirectoryIterator($root, FilesystemIterator::SKIP_DOTS)) as $file) {
    $path = $file->getPathname();
    if (!preg_match('/\.php$/', $path) || preg_match('#/(vendor|tests?|\.git)/#i', $path) || !$file->isFile()) {
        continue;
    }
    $type = type_of($path);
    if ($type === '') {
        continue;
    }
    $words = array_map('escapeshellarg', [PHP_BINARY, __FILE__, $root, $loader, $type]);
    exec(implode(' ', $words) . ' 2>&1', $said, $code);
    if ($code) {
        $complaints[] = substr($path, strlen(rtrim($root, '/')) + 1) . ": $type is not found by its name";
    }
}
sort($complaints);
foreach ($complaints as $line) {
    echo $line, "\n";
}
