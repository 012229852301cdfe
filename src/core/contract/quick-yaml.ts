import { constructFromEvents, EVENT_ID, type Event, parseEvents, SCALAR_STYLE, type ScalarEvent } from 'js-yaml';

/** A node of a YAML text. Offsets are UTF-16 code units; `end` is excluded, and is that of a plain scalar only. */
export interface QuickNode {
  /** Of the node's key, if it has one; otherwise of the node. */
  key: number;
  start: number;
  end: number;
  /** By key, or by index. */
  children?: Map<string, QuickNode>;
}

export interface QuickYaml {
  data: unknown;
  root: QuickNode;
}

/**
 * Parses a YAML text in a fifth of the time that the parser with positions and exact problems needs.
 *
 * It reads what contracts consist of: maps with plain names, lists and scalars. Anything else, and every text with a
 * mistake, is left to the thorough parser, so that there is one source of messages, and of the meaning of rare syntax.
 * @returns nothing if the thorough parser must read the text
 */
export function readQuickly(text: string): QuickYaml | undefined {
  // The parsers disagree on what a line break is.
  if (/^\uFEFF|\r(?!\n)/.test(text)) return undefined;
  try {
    const events = parseEvents(text, {});
    const root = isUsual(events) ? new Walk(text, events).node() : undefined;
    return root && { data: constructFromEvents(events, { source: text })[0], root };
  } catch {
    return undefined;
  }
}

/** One document without directives, anchors, aliases and tags. */
function isUsual(events: readonly Event[]): boolean {
  let documents = 0;
  for (const event of events) {
    if (event.type === EVENT_ID.DOCUMENT) {
      documents++;
      if (event.directives.length > 0 || event.explicitEnd) return false;
    } else if (event.type === EVENT_ID.ALIAS) return false;
    else if (event.type !== EVENT_ID.POP && (event.anchorStart >= 0 || event.tagStart >= 0)) return false;
  }
  return documents === 1;
}

/** Names that every parser reads as text. `__proto__` is refused with a message of its own. */
const usualKey = /^(?!(?:true|false|null|__proto__)$)[A-Za-z_][\w./@ -]*$/i;

/** Turns events into a tree of places. */
class Walk {
  /** The first event opens the document. */
  #next = 1;

  constructor(
    readonly text: string,
    readonly events: readonly Event[],
  ) {}

  /** The next node, with all in it. @returns nothing if a key is not a usual name */
  node(): QuickNode | undefined {
    const event = this.events[this.#next++] as Event;
    if (event.type === EVENT_ID.SCALAR) return scalarNode(event);
    if (event.type === EVENT_ID.MAPPING) return this.#collection(event.start, () => this.#key());
    if (event.type === EVENT_ID.SEQUENCE) return this.#collection(event.start, (index) => ({ name: String(index) }));
    return undefined;
  }

  #collection(
    start: number,
    keyOf: (index: number) => { name: string; at?: number } | undefined,
  ): QuickNode | undefined {
    const children = new Map<string, QuickNode>();
    while (this.events[this.#next]?.type !== EVENT_ID.POP) {
      const key = keyOf(children.size);
      const node = key && this.node();
      if (!node) return undefined;
      children.set(key.name, key.at === undefined ? node : { ...node, key: key.at });
    }
    this.#next++;
    return { key: start, start, end: start, children };
  }

  #key(): { name: string; at: number } | undefined {
    const event = this.events[this.#next++] as Event;
    if (event.type !== EVENT_ID.SCALAR) return undefined;
    const name = this.text.slice(event.valueStart, event.valueEnd);
    return usualKey.test(name) ? { name, at: scalarNode(event).start } : undefined;
  }
}

/** What is quoted begins with its quote. */
function scalarNode({ style, valueStart, valueEnd }: ScalarEvent): QuickNode {
  const isQuoted = style === SCALAR_STYLE.SINGLE_QUOTED || style === SCALAR_STYLE.DOUBLE_QUOTED;
  const start = isQuoted ? valueStart - 1 : valueStart;
  return { key: start, start, end: valueEnd };
}
