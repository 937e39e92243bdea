// The frame's mark on the contact sheet, in the bar.
import { ask } from '../page/ask.js';
import { say } from '../page/messages.js';

const MARKS = ['', 'keep', 'maybe', 'drop'];
const WORDS = { '': '', keep: 'Keep', maybe: 'Maybe', drop: 'Drop' };

export class Marks {
  constructor(frame) {
    this.frame = frame;
    this.button = document.getElementById('ag-mark');
    this.button.addEventListener('click', () => this.turn());
    this.show();
  }

  show() {
    this.button.textContent = WORDS[this.frame.mark];
    this.button.setAttribute('aria-label', `Mark: ${WORDS[this.frame.mark] || 'none'}`);
  }

  async turn() {
    const mark = MARKS[(MARKS.indexOf(this.frame.mark) + 1) % MARKS.length];
    if (!(await ask('/selection/marks', { json: { marks: { [this.frame.id]: mark } } }))) return;
    this.frame.mark = mark;
    this.show();
    say(mark ? `Marked: ${mark}.` : 'The mark is gone.');
  }
}
