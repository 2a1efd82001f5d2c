/** The first place in an ascending list whose value is not below `value`, by halving. */
export function placeOf<T>(list: readonly T[], value: number, of: (nullable: T) => number): number {
  let [low, high] = [0, list.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (of(list[middle] as T) < value) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** The same of numbers. */
export const placeOfNumber = (numbers: readonly number[], value: number): number => placeOf(numbers, value, (item) => item);
