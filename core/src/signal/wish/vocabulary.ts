/** What a word in front of a number or behind it makes of it, or what it says by itself. */
export type Label =
  | 'within'
  | 'above'
  | 'below'
  | 'on'
  | 'off'
  | 'period'
  | 'dead'
  | 'ripple'
  | 'jitter'
  | 'supply'
  | 'phase'
  | 'after'
  | 'during'
  | 'first edge'
  | 'duty'
  | 'dot'
  | 'named'
  | 'at'
  | 'above hearing'
  | 'without flicker'
  | 'morse'
  | 'SOS'
  | 'changes';

/** Words with a part in a wish, whatever its kind. Several words in a row may be one entry. */
const LABELS: Readonly<Record<Label, readonly string[]>> = {
  within: [
    'within',
    'tolerance',
    'tolerance of',
    'accuracy',
    'accurate to',
    'precise to',
    'plus minus',
    'plus or minus',
  ],
  above: [
    'above',
    'at least',
    'or more',
    'or above',
    'more than',
    'faster than',
    'minimum',
    'not below',
    'no less than',
  ],
  below: [
    'below',
    'at most',
    'or less',
    'less than',
    'slower than',
    'maximum',
    'under',
    'up to',
    'not above',
    'no more than',
  ],
  on: [
    'lit',
    'lit for',
    'on for',
    'for',
    'on time',
    'on-time',
    'ontime',
    'high for',
    'high',
    'pulse width',
    'wide',
    'long',
    'on',
    'runs',
    'opens',
    'opens for',
    'pulse',
    'pulses',
  ],
  off: ['off', 'off for', 'off-time', 'off time', 'dark', 'dark for', 'low for', 'pause', 'pause of'],
  period: ['period', 'period of', 'cycle time', 'frame', 'frame of'],
  dead: ['dead time', 'dead-time', 'deadtime', 'dead time of', 'dead'],
  ripple: ['ripple'],
  jitter: ['jitter'],
  supply: ['supply', 'supply of', 'vcc', 'vdd'],
  phase: ['phase', 'phase of', 'shifted', 'shifted by'],
  after: ['after', 'behind'],
  during: ['in', 'over', 'during'],
  'first edge': ['first edge', 'first edge within', 'first pulse within', 'starts within'],
  duty: ['duty', 'duty cycle', 'duty of', 'duty cycle of', 'duty factor'],
  dot: ['dots', 'dot', 'dots of', 'dits'],
  named: ['named', 'called'],
  at: ['at', 'to'],
  'above hearing': [
    'above hearing',
    'beyond hearing',
    'inaudible',
    'inaudibly',
    'ultrasonic',
    'above audible',
    'not audible',
    'silent',
  ],
  SOS: ['sos'],
  'without flicker': ['flicker-free', 'flicker free', 'without flicker', 'no flicker', 'flickerless'],
  morse: ['morse', 'morse code', 'in morse', 'in morse code'],
  changes: ['toggle', 'toggles', 'toggling', 'toggled', 'switches', 'changes', 'flips', 'inverts'],
};

/** Words that carry no meaning of their own here. */
const FILLERS = [
  'goes',
  'go',
  'comes',
  'stays',
  'sends',
  'send',
  'says',
  'a',
  'an',
  'the',
  'with',
  'and',
  'that',
  'which',
  'should',
  'shall',
  'must',
  'will',
  'please',
  'i',
  'we',
  'it',
  'its',
  'is',
  'are',
  'be',
  'been',
  'to',
  'at',
  'of',
  'by',
  'from',
  'through',
  'behind',
  'out',
  'into',
  'using',
  'want',
  'wants',
  'need',
  'needs',
  'would',
  'like',
  'make',
  'makes',
  'let',
  'drive',
  'drives',
  'driven',
  'get',
  'gets',
  'has',
  'have',
  'give',
  'gives',
  'set',
  'use',
  'uses',
  'my',
  'our',
  'this',
  'each',
  'resolution',
  'resolutions',
  'frequency',
  'time',
  'times',
  'of the time',
  'pin',
  'speed of',
  'rate of',
  'width',
  'a turn',
  'per turn',
  'sweep',
  'sweeps',
  'filter',
  'rc filter',
  'rc',
  'low pass',
  'around',
  'about',
  'so',
  'do',
  'does',
  'run',
  'moves',
  'move',
  'turns',
  'shows',
  'in',
  'on',
  'for',
  'between',
  'also',
  'then',
  'or',
  'timer',
  'working',
  'test',
  'exactly',
] as const;

const LABEL_OF = new Map<string, Label>(
  (Object.entries(LABELS) as [Label, readonly string[]][]).flatMap(([label, words]) =>
    words.map((word): [string, Label] => [word, label]),
  ),
);

const FILLER_WORDS: ReadonlySet<string> = new Set<string>(FILLERS);

/** The label that some words are, in lower case. */
export function labelOf(words: string): Label | undefined {
  return LABEL_OF.get(words);
}

/** Whether words, in lower case, carry no meaning of their own. */
export function isFiller(words: string): boolean {
  return FILLER_WORDS.has(words);
}

/** The most words in a row that are one entry. */
export const LONGEST_ENTRY_WORDS = 3;

/** All words of labels, for the correction of typing errors. */
export const LABEL_WORDS: readonly string[] = [...LABEL_OF.keys()];
