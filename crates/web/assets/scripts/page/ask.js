// Requests to the application: one way to send them, one sentence where it does not answer.
import { say } from './messages.js';

export const NO_ANSWER = 'The application does not answer. Is it still running?';

// The answer, or null where there is none or it is a refusal, which is said unless it is to be quiet.
export async function ask(path, { json, form, body, method = 'POST', headers = {}, signal, quiet = false } = {}) {
  const sent = json !== undefined ? JSON.stringify(json) : form ? new URLSearchParams(form) : body;
  const type = json !== undefined ? { 'content-type': 'application/json' } : {};
  const answer = await fetch(path, { method, body: sent, headers: { ...type, ...headers }, signal }).catch((e) => e);
  if (answer instanceof Error) {
    if (answer.name !== 'AbortError' && !quiet) say(NO_ANSWER, { problem: true });
    return null;
  }
  if (answer.ok) return answer;
  if (!quiet) say(await answer.text(), { problem: true });
  return null;
}
