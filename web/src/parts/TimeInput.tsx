/** A time of the day, as `09:30`. */
export function TimeInput({ label, value, onValue }: { label: string; value: string; onValue: (value: string) => void }) {
  return (
    <input
      type="time"
      aria-label={label}
      className="min-h-8 rounded border border-line bg-raised px-2"
      value={value}
      onChange={(event) => onValue(event.target.value)}
    />
  );
}
