import assert from 'node:assert/strict';
import { test } from 'node:test';
import { csvOf } from '../../assets/scripts/chart/lines.js';
import { measured, withColours, withDensities } from '../../assets/scripts/chart/scanned.js';

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

test('steps that were typed stay, the others are read', () => {
  const steps = [
    ['-1', '0.2', '0,3', '0.4'],
    ['0', '', '0.5', ''],
    ['1', '', '', ''],
    ['2', '', '', ''],
  ];
  assert.deepEqual(measured(steps, 3), [[0.2, 0.3, 0.4], null, null, null]);
  assert.deepEqual(measured(steps, 1), [[0.2], null, null, null]);
  const found = [
    [9, 9, 9],
    [0.7, 0.8, 0.9],
    [1.12345, 1.2, 1.3],
  ];
  const { rows, read } = withDensities(steps, found, 3);
  assert.equal(read, 2);
  assert.deepEqual(rows, [steps[0], ['0', '0.7', '0.8', '0.9'], ['1', '1.123', '1.2', '1.3'], steps[3]]);
  assert.deepEqual(withDensities([], [[0.5]], 1).rows, [['', '0.5', '', '']]);
});

test('colours that were read stand beside the names', () => {
  const patches = [['grey', '50', '0', '0', '', '', '']];
  const read = [
    [51.24, 1, -1],
    [20, 0, 0],
  ];
  assert.deepEqual(withColours(patches, read), [
    ['grey', '50', '0', '0', '51.2', '1', '-1'],
    ['2', '', '', '', '20', '0', '0'],
  ]);
  assert.deepEqual(patches[0][4], '');
});
