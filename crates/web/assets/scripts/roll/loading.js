// Pictures come in by button or drop, one request a file: one progress for all of them, one list of what could not be
// read.
import { ask, NO_ANSWER } from '../page/ask.js';
import { say } from '../page/messages.js';

const $ = (id) => document.getElementById(id);
const SHOWN_MS = 4000;

export class Loading {
  constructor(page, roll, added) {
    Object.assign(this, { page, roll, added });
    this.limit = +page.dataset.uploadMib;
    this.waiting = [];
    this.all = this.taken = this.refused = 0;
    const input = $('ag-files');
    $('ag-add').addEventListener('click', () => input.click());
    $('ag-add-here').addEventListener('click', () => input.click());
    input.addEventListener('change', () => {
      this.add(input.files);
      input.value = '';
    });
    for (const kind of ['dragenter', 'dragover']) {
      page.addEventListener(kind, (e) => {
        e.preventDefault();
        page.classList.add('ag-dropping');
      });
    }
    page.addEventListener('dragleave', (e) => {
      if (!page.contains(e.relatedTarget)) page.classList.remove('ag-dropping');
    });
    page.addEventListener('drop', (e) => {
      e.preventDefault();
      page.classList.remove('ag-dropping');
      this.add(e.dataTransfer.files);
    });
    window.addEventListener('beforeunload', (e) => {
      if (this.busy) e.preventDefault();
    });
  }

  add(files) {
    if (!this.busy) {
      this.all = this.taken = this.refused = 0;
      $('ag-uploads').replaceChildren();
    }
    this.waiting.push(...files);
    this.all += files.length;
    this.next();
  }

  tell(name = '', share = 0) {
    const over = this.taken + this.refused;
    $('ag-loading').hidden = this.all === 0;
    $('ag-loading-bar').value = this.all ? (over + share) / this.all : 0;
    const ended = `${this.taken} of ${this.all} loaded${this.refused ? `, ${this.refused} could not be read` : ''}`;
    $('ag-loading-words').textContent = over === this.all ? ended : `${over + 1} of ${this.all}: ${name}`;
  }

  async next() {
    if (this.busy) return;
    const file = this.waiting.shift();
    if (!file) {
      if (this.all > 0 && this.refused === 0) setTimeout(() => this.busy || ($('ag-loading').hidden = true), SHOWN_MS);
      return;
    }
    this.busy = true;
    this.tell(file.name);
    const problem = file.size > this.limit * 1024 * 1024 ? this.tooLarge() : await this.send(file);
    if (problem) this.refuse(file.name, problem);
    else this.taken += 1;
    this.busy = false;
    this.tell();
    this.next();
  }

  tooLarge() {
    return `This file is larger than the limit of ${this.limit} MiB.`;
  }

  send(file) {
    return new Promise((resolve) => {
      const packed = /\.zip$/i.test(file.name);
      const request = new XMLHttpRequest();
      request.open('POST', packed ? '/archives' : `/rolls/${this.roll}/frames`);
      request.upload.addEventListener('progress', (e) => this.tell(file.name, e.total ? e.loaded / e.total : 0));
      request.addEventListener('load', () => {
        if (request.status === 201) {
          const answer = JSON.parse(request.responseText);
          if (packed) this.unpacked(answer.roll);
          else this.loaded(file.name, answer);
          resolve('');
        } else resolve(request.responseText || 'That did not work.');
      });
      request.addEventListener('error', () => resolve(NO_ANSWER));
      const form = new FormData();
      form.append('picture', file, file.name);
      request.send(form);
    });
  }

  loaded(name, { id, brought }) {
    this.added(id);
    if (!brought) return;
    const made = `${name} brought its development along: ${brought.name || 'a picture'} on ${brought.stock}.`;
    if (!brought.original) {
      this.note(name, `${made} Its original is not here, so it was loaded as it is.`);
      return;
    }
    const line = this.note(name, made);
    const take = document.createElement('button');
    take.type = 'button';
    take.className = 'ag-b ag-sm ag-out';
    take.textContent = 'Take it up';
    take.addEventListener('click', async () => {
      take.disabled = true;
      const answer = await ask(`/frames/${id}/take-up`);
      if (!answer) {
        take.disabled = false;
        return;
      }
      line.remove();
      this.added((await answer.json()).id, id);
      say('Taken up: the original, developed as it was there.');
    });
    line.append(take);
  }

  // an archive becomes a roll of its own
  unpacked(roll) {
    say('The roll is unpacked.', { action: { label: 'Go to it', run: () => location.assign(`/rolls/${roll}`) } });
  }

  note(name, words) {
    const line = document.createElement('li');
    line.className = 'ag-upload';
    const [which, why] = [document.createElement('span'), document.createElement('span')];
    which.textContent = name;
    why.className = 'ag-note';
    why.textContent = words;
    line.append(which, why);
    $('ag-uploads').append(line);
    return line;
  }

  refuse(name, problem) {
    this.refused += 1;
    this.note(name, problem).classList.add('ag-bad');
    if (this.refused === 1) say(`${name}: ${problem}`, { problem: true });
  }
}
