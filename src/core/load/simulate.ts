import {
  CALL,
  CAUSE,
  COMMIT,
  DIRTY,
  DISCOVER,
  FRAME,
  FRAME_TASK,
  REQUEST,
  TASK_END,
  type Perturbation,
} from './browser';
import type { Link, LoadGraph } from './graph';
import { CONNECTED, HANDSHAKE, RESEND, RESPOND } from './network';
import { CAUSES, criticalPath, firstPaintPath, loadPath, type FetchTimes, type Replay, type Trace } from './replay';
import { Painting } from './simulation/painting';

/**
 * Simulates a load for one visitor. Deterministic: the same graph and link give the same answer
 * everywhere.
 */
export function simulate(graph: LoadGraph, link: Link, perturb?: Perturbation): Replay {
  return new Simulation(graph, link, perturb).run();
}

/** What was recorded less what pictures no longer cause. */
function layoutShift(graph: LoadGraph): number | undefined {
  const { cls, shifted = 0 } = graph.recorded;
  return cls === undefined ? undefined : Math.max(0, cls - shifted + graph.shifts.reduce((sum, s) => sum + s.score, 0));
}

class Simulation extends Painting {
  run(): Replay {
    const entry = this.graph.fetches.find((f) => f.discovery.by === 'navigation')?.id ?? this.graph.document.fetch;
    this.discover(entry, 0, CAUSE.navigation, -1);
    for (let guard = 0; guard < 3; guard++) {
      this.drain();
      const left = this.graph.fetches.filter((f) => this.found[f.id] === -1 && f.discovery.by !== 'never');
      if (left.length === 0) break;
      // The recording has them, so something asked for them; the graph does not know what.
      const now = Math.max(this.events.time, this.load, 0);
      for (const f of left) if (f.discovery.by !== 'fetch') this.discover(f.id, now, CAUSE.event, -1);
    }
    const replay = this.report();
    this.release();
    return replay;
  }

  private drain(): void {
    const { events, network } = this;
    for (;;) {
      network.advance(events);
      if (events.length === 0) return;
      events.pop();
      const now = events.time;
      switch (events.kind) {
        case CONNECTED:
          network.connected(events.arg, now);
          break;
        case RESPOND:
          network.respond(events.arg, now);
          break;
        case HANDSHAKE:
          network.handshake(events.arg, now);
          break;
        case RESEND:
          network.resend(events.arg, now);
          break;
        case TASK_END:
          this.endTask(now);
          break;
        case FRAME:
          this.enqueue(FRAME_TASK, 0, now);
          break;
        case DISCOVER: {
          const by = this.graph.fetches[events.arg]?.discovery.by;
          const kind =
            by === 'script' ? CAUSE.script : by === 'event' ? CAUSE.event : by === 'style' ? CAUSE.style : CAUSE.fetch;
          this.discover(events.arg, now, kind, this.causeId[events.arg] as number);
          break;
        }
        case REQUEST:
          network.request(events.arg, now);
          break;
        case CALL:
          this.queueScript(events.arg, now);
          break;
        case COMMIT:
          this.documentGrew(now);
          break;
        case DIRTY:
          this.invalidate(now);
          break;
      }
    }
  }

  private report(): Replay {
    const { graph, p } = this;
    const doc = graph.document.fetch;
    const ttfb = Math.max(0, this.first[doc] as number);
    const end = Math.max(this.events.time, 0);
    const fcp = this.fcp >= 0 ? this.fcp : end;
    const lcp = Math.max(fcp, this.lcp >= 0 ? this.lcp : end);
    const hero = p.heroFetch;
    const ready = hero >= 0 ? (this.delivered[hero] as number) : this.heroElementMs;
    const trace: Trace = {
      found: this.found,
      sent: this.sent,
      first: this.first,
      done: this.done,
      causeKind: this.causeKind,
      causeId: this.causeId,
      scriptStart: this.scriptStart,
      scriptEnd: this.scriptEnd,
      gateScript: this.gateScript,
      gateStyle: this.gateStyle,
      gateMs: this.gateMs,
      dclMs: this.dcl,
      heroReadyMs: ready,
      heroElementMs: this.heroElementMs,
      heroStyle: this.heroStyle,
      scriptStyle: this.scriptStyle,
    };
    const foundHero = hero >= 0 ? Math.min(lcp, Math.max(ttfb, this.found[graph.hero.fetch] as number)) : ttfb;
    const doneHero = hero >= 0 ? Math.min(lcp, Math.max(foundHero, ready)) : ttfb;
    let bytes = 0;
    let requests = 0;
    for (const f of graph.fetches) {
      if (f.refused || f.kept || this.found[f.id] === -1) continue;
      bytes += f.headerBytes + f.bodyBytes;
      requests++;
    }
    const lazy: { fetches?: FetchTimes[] } = {};
    const self = this;
    return {
      milestones: {
        ttfbMs: ttfb,
        fcpMs: fcp,
        lcpMs: lcp,
        dclMs: this.dcl,
        loadMs: this.load >= 0 ? this.load : end,
        bytes,
        requests,
        longTaskMs: this.longTaskMs,
        cls: layoutShift(graph),
      },
      split: {
        serverMs: ttfb,
        untilFoundMs: foundHero - ttfb,
        transferMs: doneHero - foundHero,
        untilPaintedMs: lcp - doneHero,
      },
      // Ranges need milestones only: node times are made when somebody asks.
      get fetches() {
        return (lazy.fetches ??= self.fetchTimes());
      },
      get scripts() {
        return Array.from(self.scriptStart, (startMs, i) => ({ startMs, endMs: self.scriptEnd[i] as number }));
      },
      get path() {
        return criticalPath(graph, trace, hero, lcp);
      },
      get fcpPath() {
        return firstPaintPath(graph, trace, fcp);
      },
      get loadPath() {
        return loadPath(graph, trace, self.load >= 0 ? self.load : end);
      },
      get heroPlace() {
        return self.placeOf(hero);
      },
    };
  }

  private fetchTimes(): FetchTimes[] {
    return this.graph.fetches.map((f) => ({
      foundMs: this.found[f.id] as number,
      sentMs: this.sent[f.id] as number,
      firstByteMs: this.first[f.id] as number,
      endMs: this.done[f.id] as number,
      cause: { kind: CAUSES[this.causeKind[f.id] as number] ?? 'navigation', id: this.causeId[f.id] as number },
    }));
  }

  private placeOf(hero: number): number {
    if (hero < 0) return 0;
    const at = this.found[this.graph.hero.fetch] as number;
    let place = 1;
    for (let i = 0; i < this.n; i++) {
      if (i === this.graph.hero.fetch || this.found[i] === -1) continue;
      if ((this.found[i] as number) < at || (this.found[i] === at && i < this.graph.hero.fetch)) place++;
    }
    return place;
  }
}
