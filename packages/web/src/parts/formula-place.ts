// When and with what a formula of the page is worked out.
import type { FormulaKeep, Moment } from '@bramblemist/core/formulas/language';

export interface FormulaPlace {
  /** null: it writes nothing and is worth a number. */
  readonly moment: Moment | null;
  readonly keep: FormulaKeep;
  /** Told of each text that is well formed as it is typed. */
  readonly onDraft?: (text: string) => void;
}
