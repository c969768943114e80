import type { LoadGraph } from '../core/load/graph';
import type { Range } from '../core/load/range';
import type { Visitor } from '../core/load/visitors';
import type { Replay } from '../core/load/replay';
import type { GroupEffect, GroupRange } from '../core/plan/bench';
import type { Average } from '../core/plan/averages';
import type { PlanPage } from '../core/plan/staircase';
import type { PageStory } from '../core/plan/story';

/** A page as the worker holds it. */
export interface BenchPage extends PlanPage {
  readonly captureId: number;
}

/** Captures that a question is about; all of them if not stated. */
type Within = { readonly within?: readonly number[] };

export type Ask =
  /** What all other questions are about: the answer of the API at this path, read when it is first needed. */
  | { readonly ask: 'pages'; readonly path: string }
  /** To read the pages now, and to work out what every forecast for a visitor begins with. */
  | { readonly ask: 'prepare'; readonly visitor: Visitor }
  | ({
      readonly ask: 'bench';
      readonly id: number;
      readonly visitor: Visitor;
      readonly groups: readonly string[];
    } & Within)
  /** The best order of these groups. */
  | ({
      readonly ask: 'order';
      readonly id: number;
      readonly visitor: Visitor;
      readonly groups: readonly string[];
    } & Within)
  /** The smallest set of all groups that brings a figure to `targetMs`. */
  | ({
      readonly ask: 'target';
      readonly id: number;
      readonly visitor: Visitor;
      readonly figure: TargetFigure;
      readonly targetMs: number;
    } & Within)
  /** Where several sets of groups lead, each for its own visitor and pages. */
  | { readonly ask: 'compare'; readonly id: number; readonly sets: readonly ComparedSet[] }
  | {
      readonly ask: 'story';
      readonly id: number;
      readonly visitor: Visitor;
      readonly groups: readonly string[];
      readonly captureId: number;
    };

/** Figures that a target can be set for. */
export type TargetFigure = 'lcpMs' | 'fcpMs';

/** A set of groups to be compared with others. */
export interface ComparedSet extends Within {
  readonly visitor: Visitor;
  readonly groups: readonly string[];
}

/** Where a set leads, with the ranges of its averages. */
export interface ComparedAnswer {
  readonly now: Average;
  readonly after: Average;
  readonly range: { readonly lcpMs: Range; readonly fcpMs: Range };
  readonly effort: number;
  readonly pages: number;
}

/** The way to a target. */
export interface TargetAnswer {
  readonly ids: readonly string[];
  readonly nowMs: number;
  readonly valueMs: number;
  readonly reached: boolean;
  /** Minutes. */
  readonly effort: number;
}

/** What the bench shows; the range comes in a second answer. */
export interface BenchAnswer {
  readonly now: Average;
  readonly after: Average;
  readonly range?: { readonly lcpMs: Range; readonly fcpMs: Range; readonly bytes: Range };
  readonly groups: readonly GroupEffect[];
  /** Ranges of the groups, which follow too. */
  readonly groupRanges?: readonly GroupRange[];
  readonly pages: readonly {
    readonly captureId: number;
    readonly nowMs: number;
    readonly afterMs: number;
    readonly nowFcpMs: number;
    readonly afterFcpMs: number;
  }[];
}

export interface StoryAnswer extends PageStory {
  readonly after: Replay;
  readonly afterGraph: LoadGraph;
  readonly why: readonly string[];
  /** Change of hero paint of each offered fix alone, by fix id. */
  readonly alone: Readonly<Record<string, { readonly lcpMs: number; readonly fcpMs: number; readonly range: Range }>>;
}

export type Answer =
  | { readonly answer: 'order'; readonly id: number; readonly value: readonly string[] }
  | { readonly answer: 'target'; readonly id: number; readonly value: TargetAnswer }
  | { readonly answer: 'compare'; readonly id: number; readonly value: readonly ComparedAnswer[] }
  | { readonly answer: 'bench'; readonly id: number; readonly visitor: string; readonly value: BenchAnswer }
  /** The pages could not be read. */
  | { readonly answer: 'failed'; readonly what: string }
  | { readonly answer: 'story'; readonly id: number; readonly value: StoryAnswer };
