import type { Fix } from '../core/fixes/fix';
import type { LoadGraph } from '../core/load/graph';
import type { Range } from '../core/load/range';
import type { Visitor } from '../core/load/visitors';
import type { HeroSplit, Replay } from '../core/load/replay';
import type { Average, Staircase } from '../core/plan/staircase';
import type { Concern } from '../core/checks/finding';

/** A page as the worker holds it. */
export interface BenchPage {
  readonly captureId: number;
  readonly title: string;
  readonly graph: LoadGraph;
  readonly fixes: readonly Fix[];
  /** Concern of each finding, to tell what a concern costs. */
  readonly concerns: Readonly<Record<string, Concern>>;
}

export type Ask =
  | { readonly ask: 'pages'; readonly pages: readonly BenchPage[] }
  | {
      readonly ask: 'bench';
      readonly id: number;
      readonly visitor: Visitor;
      readonly groups: readonly string[];
    }
  | { readonly ask: 'staircase'; readonly id: number; readonly visitor: Visitor }
  | {
      readonly ask: 'story';
      readonly id: number;
      readonly visitor: Visitor;
      readonly groups: readonly string[];
      readonly captureId: number;
    };

/** What the bench shows; the range comes in a second answer. */
export interface BenchAnswer {
  readonly now: Average;
  readonly after: Average;
  readonly range?: { readonly lcpMs: Range; readonly fcpMs: Range; readonly bytes: Range };
  readonly groups: readonly { readonly id: string; readonly aloneMs: number; readonly addedMs: number }[];
  readonly pages: readonly {
    readonly captureId: number;
    readonly nowMs: number;
    readonly afterMs: number;
    readonly nowFcpMs: number;
    readonly afterFcpMs: number;
  }[];
}

export interface StaircaseAnswer {
  readonly staircase: Staircase;
  /** What each concern costs each page, ms of hero paint. */
  readonly costs: readonly { readonly captureId: number; readonly concern: Concern; readonly ms: number }[];
  readonly slowest?: {
    readonly captureId: number;
    readonly lcpMs: number;
    readonly split: HeroSplit;
    readonly place: number;
    readonly requests: number;
  };
}

export interface StoryAnswer {
  readonly captureId: number;
  readonly now: Replay;
  readonly after: Replay;
  readonly afterGraph: LoadGraph;
  readonly why: readonly string[];
  /** Change of hero paint of each offered fix alone, by fix id. */
  readonly alone: Readonly<Record<string, { readonly lcpMs: number; readonly fcpMs: number; readonly range: Range }>>;
}

export type Answer =
  | { readonly answer: 'bench'; readonly id: number; readonly visitor: string; readonly value: BenchAnswer }
  | { readonly answer: 'staircase'; readonly id: number; readonly visitor: string; readonly value: StaircaseAnswer }
  | { readonly answer: 'story'; readonly id: number; readonly value: StoryAnswer };
