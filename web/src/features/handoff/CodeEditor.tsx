'use client';

import { cpp } from '@codemirror/lang-cpp';
import {
  codeFolding,
  foldGutter,
  foldKeymap,
  HighlightStyle,
  syntaxHighlighting,
} from '@codemirror/language';
import { EditorState, RangeSet, StateEffect, StateField, type Extension } from '@codemirror/state';
import {
  Decoration,
  drawSelection,
  EditorView,
  gutter,
  GutterMarker,
  keymap,
  lineNumbers,
  type DecorationSet,
} from '@codemirror/view';
import { tags } from '@lezer/highlight';
import { useEffect, useRef } from 'react';
import type { LineMark } from '@herzschlag/core';
import { COLOUR } from '../../theme/colour.ts';

/** Words of C in the pulse's colour, numbers in that of the first lane, remarks soft. */
const HIGHLIGHT = HighlightStyle.define([
  { tag: [tags.keyword, tags.typeName, tags.modifier, tags.controlKeyword], color: COLOUR.pulse },
  { tag: [tags.number, tags.string, tags.character], color: 'var(--hz-palette-lane-1)' },
  { tag: [tags.comment, tags.lineComment, tags.blockComment], color: COLOUR.faint },
  { tag: [tags.processingInstruction, tags.meta], color: 'var(--hz-palette-lane-4)' },
]);

const THEME = EditorView.theme({
  '&': { height: '100%', fontSize: 'var(--hz-size-small)', backgroundColor: 'transparent' },
  '&.cm-focused': { outline: 'none' },
  '.cm-scroller': { fontFamily: 'var(--hz-family-mono)', lineHeight: '18px', overflow: 'auto' },
  '.cm-gutters': { background: COLOUR.paper, border: 0, color: COLOUR.faint },
  '.cm-content': { caretColor: COLOUR.ink },
  '.cm-line': { paddingLeft: '10px' },
  '.cm-foldPlaceholder': { background: COLOUR.wash, border: 0, color: COLOUR.soft, padding: '0 6px' },
  '.hz-pointed': { backgroundColor: 'var(--hz-palette-band-primary)' },
  '.hz-signals .cm-gutterElement': { width: '6px', padding: 0 },
  '.hz-signals i': { display: 'block', width: '4px', height: '100%' },
});

/** The colours of the signals that a line serves, one above the other. */
class SignalMarker extends GutterMarker {
  constructor(readonly colours: readonly string[]) {
    super();
  }

  override eq(other: SignalMarker): boolean {
    return other.colours.join() === this.colours.join();
  }

  override toDOM(): Node {
    const bar = document.createElement('i');
    const share = 100 / this.colours.length;
    const stops = this.colours.map((colour, at) => `${colour} ${at * share}% ${(at + 1) * share}%`);
    bar.style.background = `linear-gradient(${stops.join(',')})`;
    return bar;
  }
}

const point = StateEffect.define<readonly number[]>();

/** The lines that a register points at. */
const pointed = StateField.define<DecorationSet>({
  create: () => Decoration.none,
  update: (lines, transaction) => {
    const effect = transaction.effects.find((one) => one.is(point));
    if (!effect) return lines;
    const { doc } = transaction.state;
    const wanted = effect.value.filter((line) => line >= 1 && line <= doc.lines);
    return Decoration.set(
      wanted.map((line) => Decoration.line({ class: 'hz-pointed' }).range(doc.line(line).from)),
    );
  },
  provide: (field) => EditorView.decorations.from(field),
});

function signalGutter(marks: readonly LineMark[], colourOf: (signal: string) => string): Extension {
  const colours = new Map(marks.map(({ line, signals }) => [line, signals.map(colourOf)]));
  return gutter({
    class: 'hz-signals',
    markers: ({ state: { doc } }) =>
      RangeSet.of(
        [...colours].flatMap(([line, own]) =>
          own.length > 0 && line <= doc.lines ? [new SignalMarker(own).range(doc.line(line).from)] : [],
        ),
      ),
  });
}

/** The nonce that style sheets of this page must carry. */
function pageNonce(): string {
  return document.querySelector<HTMLElement>('style[nonce], script[nonce]')?.nonce ?? '';
}

/** A file to read, with folding and the colours of its signals; the lines of a register are marked, and a line tells its register. */
export default function CodeEditor({
  name,
  text,
  marks,
  colourOf,
  lines,
  reveal,
  meet,
}: {
  name: string;
  text: string;
  marks: readonly LineMark[];
  colourOf: (signal: string) => string;
  /** The lines to mark, the first of which is brought into view where `reveal` says so. */
  lines: readonly number[];
  reveal: boolean;
  /** Told of the line that the pointer or the cursor is at; undefined where it leaves. */
  meet: (line: number | undefined) => void;
}) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(undefined);
  const told = useRef(meet);
  useEffect(() => {
    told.current = meet;
  }, [meet]);

  useEffect(() => {
    if (!host.current) return undefined;
    let over: number | undefined;
    const made = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: text,
        extensions: [
          lineNumbers(),
          signalGutter(marks, colourOf),
          codeFolding(),
          foldGutter({ openText: '▾', closedText: '▸' }),
          name.endsWith('.asm') ? [] : cpp(),
          syntaxHighlighting(HIGHLIGHT),
          drawSelection(),
          keymap.of(foldKeymap),
          EditorState.readOnly.of(true),
          EditorView.contentAttributes.of({
            'aria-label': `${name}, read only`,
            'aria-readonly': 'true',
            tabindex: '0',
          }),
          pointed,
          THEME,
          EditorView.cspNonce.of(pageNonce()),
          EditorView.updateListener.of(({ selectionSet, state, view: own }) => {
            if (selectionSet && own.hasFocus)
              told.current(state.doc.lineAt(state.selection.main.head).number);
          }),
          EditorView.domEventHandlers({
            mousemove: (event, own) => {
              const at = own.posAtCoords({ x: event.clientX, y: event.clientY });
              const line = at === null ? undefined : own.state.doc.lineAt(at).number;
              if (line !== over) told.current(line);
              over = line;
            },
            mouseleave: () => {
              over = undefined;
              told.current(undefined);
            },
          }),
        ],
      }),
    });
    view.current = made;
    return () => made.destroy();
  }, [name, text, marks, colourOf]);

  useEffect(() => {
    const own = view.current;
    if (!own) return;
    const [first] = lines;
    const shown = first !== undefined && reveal && first <= own.state.doc.lines;
    own.dispatch({
      effects: [
        point.of(lines),
        ...(shown ? [EditorView.scrollIntoView(own.state.doc.line(first).from, { y: 'center' })] : []),
      ],
    });
  }, [lines, reveal, text, marks, colourOf, name]);

  return <div ref={host} className="code-editor" style={{ height: '100%' }} />;
}
