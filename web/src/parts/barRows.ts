/** One series of a chart of bars. */
export interface BarSeries {
  key: string;
  label: string;
  /** A colour of the product, as `var(--name)`. */
  colour: string;
}

/** One bar: what each series has at one place. */
export interface BarRow {
  /** Below the bar, short. */
  label: string;
  /** In full: on the tip and in the table. */
  title: string;
  values: Readonly<Record<string, number>>;
}
