import { html } from '@codemirror/lang-html';
import { HighlightStyle, syntaxHighlighting } from '@codemirror/language';
import {
  EditorState,
  RangeSet,
  StateEffect,
  StateField,
  type Extension,
  type Range,
  type Text,
} from '@codemirror/state';
import {
  Decoration,
  EditorView,
  gutter,
  GutterMarker,
  lineNumbers,
  WidgetType,
  type DecorationSet,
} from '@codemirror/view';
import { tags } from '@lezer/highlight';
import type { LineMark } from './sourceLines';

/** A read-only editor with marks. */
export interface SourceEditor {
  mark(marks: readonly LineMark[]): void;
  /** Brings a line into the middle; `outline` marks it as the one asked for. */
  show(line: number, outline: boolean): void;
  /** Goes to the marked line before (-1) or after (1) the one in the middle. */
  step(marks: readonly LineMark[], by: 1 | -1): void;
  close(): void;
}

const setMarks = StateEffect.define<readonly LineMark[]>();
const setLine = StateEffect.define<number | undefined>();

interface Shown {
  readonly marks: readonly LineMark[];
  readonly line?: number;
  readonly decorations: DecorationSet;
}

const shown = StateField.define<Shown>({
  create: () => ({ marks: [], decorations: Decoration.none }),
  update: (value, { effects, state }) =>
    effects.reduce<Shown>((v, e) => {
      const next = e.is(setMarks) ? { ...v, marks: e.value } : e.is(setLine) ? { ...v, line: e.value } : undefined;
      return next ? { ...next, decorations: decorations(state.doc, next) } : v;
    }, value),
  provide: (field) => [
    EditorView.decorations.from(field, (value) => value.decorations),
    gutter({ class: 'cm-findings', markers: (view) => markers(view.state.doc, view.state.field(field).marks) }),
  ],
});

/** Opens an editor on a text; nobody can change it, and nothing in it is run. */
export function sourceEditor(parent: HTMLElement, text: string): SourceEditor {
  const view = new EditorView({ parent, state: EditorState.create({ doc: text, extensions: EXTENSIONS }) });
  const lineAt = (n: number) => view.state.doc.line(Math.max(1, Math.min(view.state.doc.lines, n)));
  // Within the editor only: the page around it stays where it is. Lines get their true height when drawn: aimed twice.
  const aim = (line: number, again: boolean) =>
    view.requestMeasure({
      read: () => view.lineBlockAt(lineAt(line).from).top - view.scrollDOM.clientHeight / 2,
      write: (top) => {
        view.scrollDOM.scrollTop = top;
        if (again) aim(line, false);
      },
    });
  const show = (line: number, outline: boolean) => {
    view.dispatch({ effects: setLine.of(outline ? line : undefined) });
    aim(line, true);
  };
  return {
    mark: (marks) => view.dispatch({ effects: setMarks.of(marks) }),
    show,
    step: (marks, by) => {
      const box = view.scrollDOM;
      const middle = view.lineBlockAtHeight(box.scrollTop + box.clientHeight / 2).from;
      const here = view.state.field(shown).line ?? view.state.doc.lineAt(middle).number;
      const lines = marks.map((m) => m.line);
      const next = by > 0 ? lines.find((l) => l > here) : [...lines].reverse().find((l) => l < here);
      if (next !== undefined) show(next, true);
    },
    close: () => view.destroy(),
  };
}

function decorations(doc: Text, { marks, line }: Omit<Shown, 'decorations'>): DecorationSet {
  const out: Range<Decoration>[] = [];
  if (line !== undefined && line >= 1 && line <= doc.lines)
    out.push(Decoration.line({ class: 'cm-asked' }).range(doc.line(line).from));
  for (const m of marks) {
    if (m.line < 1 || m.line > doc.lines) continue;
    const at = doc.line(m.line);
    const classes = [m.findings.length > 0 && 'cm-marked', m.after && 'cm-before'].filter(Boolean).join(' ');
    out.push(Decoration.line({ class: classes }).range(at.from));
    if (m.findings.length > 0) {
      const note = new Note(m.findings.map((f) => f.title).join(' · '));
      out.push(Decoration.widget({ widget: note, side: 1, block: true }).range(at.to));
    }
    if (m.after) out.push(Decoration.widget({ widget: new After(m.after), side: 2, block: true }).range(at.to));
  }
  return Decoration.set(out, true);
}

function markers(doc: Text, marks: readonly LineMark[]): RangeSet<GutterMarker> {
  return RangeSet.of(
    marks
      .filter((m) => m.findings.length > 0 && m.line >= 1 && m.line <= doc.lines)
      .map((m) => new Pointer(m.findings.map((f) => f.title).join('\n')).range(doc.line(m.line).from)),
    true,
  );
}

/** The titles of a line's findings, below it; as text, whatever they hold. */
class Note extends WidgetType {
  constructor(private readonly text: string) {
    super();
  }
  override eq(other: Note): boolean {
    return other.text === this.text;
  }
  override toDOM(): HTMLElement {
    const box = document.createElement('div');
    box.className = 'note';
    box.textContent = this.text;
    return box;
  }
}

/** The lines that a fix puts in the place of one. */
class After extends WidgetType {
  constructor(private readonly lines: readonly string[]) {
    super();
  }
  override eq(other: After): boolean {
    return other.lines.join('\n') === this.lines.join('\n');
  }
  override toDOM(): HTMLElement {
    const box = document.createElement('div');
    box.className = 'cm-after';
    for (const text of this.lines) {
      const line = box.appendChild(document.createElement('div'));
      line.textContent = `+ ${text}`;
    }
    return box;
  }
}

class Pointer extends GutterMarker {
  constructor(private readonly text: string) {
    super();
  }
  override toDOM(): Node {
    const mark = document.createElement('span');
    mark.textContent = '▸';
    mark.title = this.text;
    return mark;
  }
}

/** Ink only: structure is told by weight, never by colour, which stands for something else here. */
const inks = HighlightStyle.define([
  { tag: tags.tagName, fontWeight: '600' },
  { tag: [tags.angleBracket, tags.comment, tags.attributeName], color: 'var(--soft)' },
]);

const EXTENSIONS: Extension = [
  EditorState.readOnly.of(true),
  EditorView.editable.of(false),
  EditorView.contentAttributes.of({ tabindex: '0', 'aria-label': 'Source of the page' }),
  EditorView.lineWrapping,
  lineNumbers(),
  html({ matchClosingTags: false, autoCloseTags: false }),
  syntaxHighlighting(inks),
  shown,
];
