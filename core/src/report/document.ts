/** A piece of a report. */
export type Block =
  | { is: 'text'; text: string }
  | { is: 'list'; items: readonly string[] }
  | {
      is: 'table';
      head: readonly string[];
      rows: readonly (readonly string[])[];
      numbers?: readonly number[];
    }
  | { is: 'code'; text: string }
  | { is: 'picture'; svg: string; text: string };

/** A part of a report under its own heading. */
export type Section = { title: string; level: 2 | 3; blocks: readonly Block[] };

/** A report of a plan for a review: what it is about, its verdict in a sentence, and its sections. */
export type ReportDocument = {
  title: string;
  about: string;
  verdict: string;
  passes: boolean;
  sections: readonly Section[];
};
