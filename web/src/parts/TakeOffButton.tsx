import { X } from 'lucide-react';

/** Takes something off a list that is being put together. */
export function TakeOffButton({ label, onClick }: { label: string; onClick: () => void }) {
  return (
    <button
      type="button"
      aria-label={label}
      className="flex size-7 shrink-0 items-center justify-center text-muted hover:text-brick"
      onClick={onClick}
    >
      <X size={13} />
    </button>
  );
}
