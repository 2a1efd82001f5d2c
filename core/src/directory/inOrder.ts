/** The first place in ascending numbers whose value is not below `value`, by halving. */
export function placeOf(numbers: readonly number[], value: number): number {
  let [low, high] = [0, numbers.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((numbers[middle] ?? 0) < value) low = middle + 1;
    else high = middle;
  }
  return low;
}
