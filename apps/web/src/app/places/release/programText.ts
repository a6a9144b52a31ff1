import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  CSP_NONCE,
  DestroyRef,
  effect,
  type ElementRef,
  inject,
  input,
  output,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import { SearchCursor } from '@codemirror/search';
import { EditorState, RangeSetBuilder, StateEffect, StateField } from '@codemirror/state';
import { Decoration, type DecorationSet, EditorView, lineNumbers, ViewPlugin, type ViewUpdate } from '@codemirror/view';
import { TextField } from '../../shared/textField';

/** Words of a block by what they do (ISO 6983): comments, preparatory and other functions, ways, and what a tool does. */
const WORDS = /(\([^)]*\))|([GMO]\d+(?:\.\d+)?)|([XYZIJKR][-+]?[\d.]+)|([FSTHDN][-+]?[\d.]+)/g;
const KINDS = ['remark', 'function', 'way', 'tool'].map((kind) => Decoration.mark({ class: `word-${kind}` }));
const HERE = Decoration.line({ class: 'here' });

const THEME = EditorView.theme({
  '&': { height: '100%', fontSize: '12px' },
  '&.cm-focused': { outline: 'none' },
  '.cm-scroller': { fontFamily: 'var(--mono)', lineHeight: '18px' },
  '.cm-content': { cursor: 'pointer' },
  '.cm-gutters': { background: 'var(--sheet)', color: 'var(--pencil)', borderRight: '1px solid var(--rule)' },
  '.here': { background: 'var(--chosen)', boxShadow: 'inset 3px 0 0 var(--sanguine)' },
  '.word-remark': { color: 'var(--pencil)' },
  '.word-function': { color: 'var(--indigo)' },
  '.word-tool': { color: 'var(--verdigris)' },
});

/** Marks a line, or none. */
const setHere = StateEffect.define<number>();
const here = StateField.define<DecorationSet>({
  create: () => Decoration.none,
  update(marks, change) {
    for (const effect of change.effects)
      if (effect.is(setHere)) {
        const { doc } = change.state;
        marks =
          effect.value >= 1 && effect.value <= doc.lines
            ? Decoration.set(HERE.range(doc.line(effect.value).from))
            : Decoration.none;
      }
    return marks;
  },
  provide: (field) => EditorView.decorations.from(field),
});

/** Tells the words of the lines in sight apart. */
const words = ViewPlugin.fromClass(
  class {
    decorations: DecorationSet;
    constructor(view: EditorView) {
      this.decorations = wordsIn(view);
    }
    update(update: ViewUpdate): void {
      if (update.docChanged || update.viewportChanged) this.decorations = wordsIn(update.view);
    }
  },
  { decorations: (plugin) => plugin.decorations },
);

function wordsIn(view: EditorView): DecorationSet {
  const marks = new RangeSetBuilder<Decoration>();
  for (const { from, to } of view.visibleRanges)
    for (const found of view.state.sliceDoc(from, to).matchAll(WORDS)) {
      const kind = found.slice(1).findIndex((group) => group !== undefined);
      marks.add(from + found.index, from + found.index + found[0].length, KINDS[kind]!);
    }
  return marks.finish();
}

/** A posted program to read and to look through; a line that is pressed is told, and one can be stood at. */
@Component({
  selector: 'esq-program-text',
  imports: [MatButtonModule, MatIconModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './programText.scss',
  template: `
    <div class="find" role="search">
      <esq-text-field bare label="Find in the program" placeholder="find" (typed)="look($event)" [accept]="next" />
      <button matIconButton aria-label="Find before" (click)="find(-1)" [disabled]="sought() === ''">
        <mat-icon svgIcon="chevron-left" />
      </button>
      <button matIconButton aria-label="Find next" (click)="find(1)" [disabled]="sought() === ''">
        <mat-icon svgIcon="chevron-right" />
      </button>
      <span class="pencil count" role="status">{{ told() }}</span>
    </div>
    <div #editor class="editor" data-testid="program"></div>
  `,
})
export class ProgramText {
  private readonly nonce = inject(CSP_NONCE, { optional: true }) ?? '';
  readonly text = input.required<string>();
  /** The line to stand at, from 1; 0 for none. */
  readonly line = input(0);
  /** A line was pressed, or the cursor was moved to it. */
  readonly pressed = output<number>();
  private readonly place = viewChild.required<ElementRef<HTMLElement>>('editor');
  private readonly view = signal<EditorView | undefined>(undefined);
  protected readonly sought = signal('');
  private readonly places = computed(() => {
    const sought = this.sought().toUpperCase();
    const view = this.view();
    if (!view || sought === '') return [];
    this.text();
    const places: { from: number; to: number }[] = [];
    const cursor = new SearchCursor(view.state.doc, sought, 0, view.state.doc.length, (t) => t.toUpperCase());
    while (!cursor.next().done) places.push(cursor.value);
    return places;
  });
  protected readonly told = computed(() => {
    const n = this.places().length;
    return this.sought() === '' ? '' : n === 0 ? 'not found' : `${n} ${n === 1 ? 'place' : 'places'}`;
  });
  protected readonly next = (): undefined => {
    this.find(1);
  };

  constructor() {
    const destroy = inject(DestroyRef);
    afterNextRender(() => {
      const view = new EditorView({ parent: this.place().nativeElement, state: this.stateOf(this.text()) });
      destroy.onDestroy(() => view.destroy());
      this.view.set(view);
    });
    effect(() => {
      const text = this.text();
      const view = this.view();
      if (view && view.state.doc.toString() !== text) view.setState(this.stateOf(text));
    });
    effect(() => {
      const line = this.line();
      const view = this.view();
      this.text();
      if (!view) return;
      view.dispatch({ effects: setHere.of(line) });
      const isThere = line >= 1 && line <= view.state.doc.lines;
      if (isThere)
        untracked(() =>
          view.dispatch({ effects: EditorView.scrollIntoView(view.state.doc.line(line).from, { y: 'center' }) }),
        );
    });
  }

  protected look(text: string): void {
    this.sought.set(text.trim());
  }

  /** Goes to the next place of what is sought, or to the one before; behind the last comes the first. */
  protected find(way: 1 | -1): void {
    const view = this.view();
    const places = this.places();
    if (!view || places.length === 0) return;
    const at = view.state.selection.main;
    const found =
      way > 0
        ? (places.find((p) => p.from >= at.to && p.from !== at.from) ?? places[0]!)
        : (places.findLast((p) => p.to <= at.from) ?? places.at(-1)!);
    view.dispatch({
      selection: { anchor: found.from, head: found.to },
      effects: EditorView.scrollIntoView(found.from, { y: 'center' }),
    });
    this.pressed.emit(view.state.doc.lineAt(found.from).number);
  }

  private stateOf(text: string): EditorState {
    return EditorState.create({
      doc: text,
      extensions: [
        EditorView.cspNonce.of(this.nonce),
        THEME,
        lineNumbers(),
        words,
        here,
        EditorState.readOnly.of(true),
        EditorView.editable.of(false),
        EditorView.contentAttributes.of({ 'aria-label': 'Program', tabindex: '0' }),
        EditorView.domEventHandlers({
          click: (event, view) => {
            const at = view.posAtCoords({ x: event.clientX, y: event.clientY });
            if (at !== null) this.pressed.emit(view.state.doc.lineAt(at).number);
          },
          keydown: (event) => {
            const by = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
            if (by === 0) return false;
            event.preventDefault();
            this.pressed.emit(Math.max(1, this.line() + by));
            return true;
          },
        }),
      ],
    });
  }
}
