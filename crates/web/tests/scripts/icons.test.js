// The icons' font is cut down to those that are used (scripts/icons.py): every one that a page names must be in it.
import assert from 'node:assert/strict';
import { readFileSync, readdirSync } from 'node:fs';
import test from 'node:test';

const web = new URL('../../', import.meta.url);
const read = (path) => readFileSync(new URL(path, web), 'utf8');

test('every icon that a page names is there', () => {
  const style = read('assets/vendor/bootstrap-icons.min.css');
  const pages = ['templates', 'assets/scripts', 'src'].flatMap((folder) =>
    readdirSync(new URL(`${folder}/`, web), { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile())
      .map((entry) => readFileSync(`${entry.parentPath}/${entry.name}`, 'utf8')),
  );
  const used = new Set(pages.join('\n').match(/\bbi-[a-z0-9-]+/g));
  assert.ok(used.size > 20);
  assert.deepEqual(
    [...used].filter((name) => !style.includes(`.${name}::before`)),
    [],
  );
});
