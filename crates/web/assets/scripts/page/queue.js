// The queue of exports is put in order: what waits is dragged, or moved by Alt and the arrow keys.
import { ask } from './ask.js';

const waiting = () => [...document.querySelectorAll('#ag-exports [data-waits]')];

async function move(id, before) {
  const answer = await ask(`/exports/${id}/place`, { json: { before: before ?? null } });
  if (!answer) return;
  const list = document.getElementById('ag-exports');
  list.outerHTML = await answer.text();
  const renewed = document.getElementById('ag-exports');
  htmx.process(renewed);
  renewed.querySelector(`[data-export="${id}"]`)?.focus();
}

export function listenToQueue() {
  let dragged = null;
  // the list is not renewed under a hand, nor under the keys that move in it
  document.addEventListener('htmx:beforeRequest', (e) => {
    const held = dragged || e.target.contains(document.activeElement?.closest('[data-waits]'));
    if (e.target.id === 'ag-exports' && e.detail.requestConfig.verb === 'get' && held) e.preventDefault();
  });
  document.addEventListener('dragstart', (e) => {
    const job = e.target.closest?.('[data-waits]');
    if (!job) return;
    dragged = job.dataset.export;
    e.dataTransfer.effectAllowed = 'move';
    e.dataTransfer.setData('text/plain', dragged);
  });
  document.addEventListener('dragover', (e) => {
    const over = dragged && e.target.closest?.('#ag-exports');
    if (!over) return;
    e.preventDefault();
    const target = e.target.closest('[data-waits]');
    for (const job of waiting()) job.classList.toggle('ag-before', job === target && job.dataset.export !== dragged);
  });
  document.addEventListener('drop', (e) => {
    if (!dragged || !e.target.closest?.('#ag-exports')) return;
    e.preventDefault();
    const target = e.target.closest('[data-waits]')?.dataset.export;
    if (target !== dragged) move(dragged, target && +target);
  });
  document.addEventListener('dragend', () => {
    dragged = null;
    for (const job of waiting()) job.classList.remove('ag-before');
  });
  document.addEventListener('keydown', (e) => {
    const job = e.altKey && e.target.matches?.('[data-waits]') && e.target;
    if (!job || !['ArrowUp', 'ArrowDown'].includes(e.key)) return;
    e.preventDefault();
    e.stopPropagation();
    const all = waiting();
    const at = all.indexOf(job);
    const before = e.key === 'ArrowUp' ? all[at - 1] : all[at + 2];
    if (e.key === 'ArrowUp' ? at > 0 : at < all.length - 1) move(job.dataset.export, before && +before.dataset.export);
  });
}
