import { useEffect, useRef, useState } from 'react';
import { TextInput } from './basics';

/** A typed filter that takes effect when typing pauses. */
export function TypedFilter({
  label,
  name,
  value,
  onSet,
  wide = false,
  placeholder = label,
}: {
  label: string;
  name: string;
  value: string;
  onSet: (name: string, value: string) => void;
  wide?: boolean;
  placeholder?: string;
}) {
  const [text, setText] = useState(value);
  const latest = useRef(onSet);
  latest.current = onSet;
  useEffect(() => setText(value), [value]);
  useEffect(() => {
    if (text === value) return;
    const timer = window.setTimeout(() => latest.current(name, text.trim()), 300);
    return () => window.clearTimeout(timer);
  }, [text, value, name]);
  return (
    <TextInput
      aria-label={label}
      placeholder={placeholder}
      className={wide ? 'w-56!' : 'w-40!'}
      value={text}
      onChange={(event) => setText(event.target.value)}
    />
  );
}
