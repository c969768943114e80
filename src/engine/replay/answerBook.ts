import { findLike } from '../../core/proof/likeness';
import type { Answer, ReplayReport } from './messages';

/** Every recorded answer, found by what is asked; keeps note of what was not found. */
export class AnswerBook {
  private answers: readonly Answer[] = [];
  private used = new Set<number>();
  private unanswered = new Set<string>();
  private likened = new Map<string, string>();
  private requests = 0;

  /** Sets what is answered from now on. */
  set(answers: readonly Answer[]): void {
    this.answers = answers;
    this.forget();
  }

  /** Forgets what was asked. */
  forget(): void {
    this.used = new Set();
    this.unanswered = new Set();
    this.likened = new Map();
    this.requests = 0;
  }

  report(): ReplayReport {
    return {
      unanswered: [...this.unanswered],
      likened: [...this.likened].map(([asked, as]) => ({ asked, as })),
      requests: this.requests,
    };
  }

  /**
   * The answer to a request. What was recorded by http answers for its https twin as well, and the other way round: a fix
   * may ask for it so.
   */
  find(method: string, url: string): Answer | undefined {
    this.requests++;
    const found = this.like(method, url) ?? this.like(method, twinOf(url), url);
    if (!found && !/\/favicon\.ico$/.test(url)) this.unanswered.add(url);
    return found;
  }

  private like(method: string, url: string, asked = url): Answer | undefined {
    const found = findLike({ method, url }, this.answers, this.used);
    if (!found) return undefined;
    let answer = this.answers[found.index] as Answer;
    // The twin's answer leads back to what was asked for: then what it leads to is meant.
    const to = answer.headers.find(([name]) => name === 'location')?.[1];
    if (asked !== url && to !== undefined && URL.canParse(to, url) && new URL(to, url).href === asked) return undefined;
    this.used.add(found.index);
    if (found.alike < 1) this.likened.set(asked, answer.url);
    if (answer.status === 304) answer = this.answers.find((a) => a.url === answer.url && a.status === 200) ?? answer;
    return answer;
  }
}

const twinOf = (url: string) =>
  url.startsWith('https:') ? `http:${url.slice(6)}` : url.startsWith('http:') ? `https:${url.slice(5)}` : url;
