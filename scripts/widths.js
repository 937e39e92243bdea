// No line of the project's languages is wider than 120 columns.
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';

const WIDEST = 120;
const LANGUAGES = ['*.rs', '*.py', '*.js', '*.css', '*.html', '*.sh', '*.sql', '*.toml', 'Makefile'];
const NOT_OURS = /vendor\//;

const files = execFileSync('git', ['ls-files', '--', ...LANGUAGES], { encoding: 'utf8' }).split('\n');
const wide = files
  .filter((file) => file && !NOT_OURS.test(file))
  .flatMap((file) => {
    const lines = readFileSync(file, 'utf8').split('\n');
    return lines.flatMap((line, i) => ([...line].length > WIDEST ? [`${file}:${i + 1}: ${[...line].length}`] : []));
  });
if (wide.length) {
  console.error(`Wider than ${WIDEST} columns:\n${wide.join('\n')}`);
  process.exitCode = 1;
}
