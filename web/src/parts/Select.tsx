import type { SelectHTMLAttributes } from 'react';
import { clsx } from './clsx';

/** The browser's own choice list, in the product's form. */
export function Select({ className, ...rest }: SelectHTMLAttributes<HTMLSelectElement>) {
  return <select className={clsx('min-h-8 w-full rounded border border-line bg-raised px-1.5 text-base', className)} {...rest} />;
}
