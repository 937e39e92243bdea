import assert from 'node:assert/strict';
import { test } from 'node:test';
import { csvOf } from '../../assets/scripts/chart/lines.js';

test('a form becomes lines, empty rows do not', () => {
  const csv = csvOf({
    kind: 'color-negative',
    name: 'Mine, first',
    iso: '200',
    print: 'lab-paper',
    seen: '',
    wedge: [
      ['-1', '0.3', '0.31', '0.29'],
      ['', '', '', ''],
    ],
    patches: [
      ['grey', '50', '0', '0', '51', '1', '-1'],
      ['none', '', '', '', '', '', ''],
      ['missing', '60', '1', '2', '', '', ''],
    ],
  });
  assert.equal(
    csv,
    'kind,color-negative\nname,"Mine, first"\niso,200\nprint,lab-paper\nwedge,-1,0.3,0.31,0.29\n' +
      'patch,grey,50,0,0,51,1,-1\npatch,missing,60,1,2\n',
  );
});

test('one layer has one density', () => {
  const form = { kind: 'bw-negative', name: '', iso: '', print: 'lab-paper', seen: 'scene', patches: [] };
  const csv = csvOf({ ...form, wedge: [['0', '0.8', '0.7', '0.6']] });
  assert.equal(csv, 'kind,bw-negative\nname,From a chart\niso,100\nseen,scene\nwedge,0,0.8\n');
});
