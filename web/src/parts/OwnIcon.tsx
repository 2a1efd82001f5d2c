import type { OwnKind } from '@fulvet/contract';
import { BookOpen, Flag, Folder, HeartPulse, LifeBuoy, MapPin, Package, Shield, Star, Truck, Wrench } from 'lucide-react';
import type { LucideIcon } from 'lucide-react';
import { useRecordSetup } from '../api/queries';

/** What stands for the records of a kind that the workspace defines. */
export const OWN_ICONS: Record<OwnKind['icon'], LucideIcon> = {
  case: LifeBuoy,
  tool: Wrench,
  box: Package,
  book: BookOpen,
  flag: Flag,
  star: Star,
  map: MapPin,
  truck: Truck,
  heart: HeartPulse,
  shield: Shield,
};

/** The icon of a record of an own kind, and what its kind is called. @param name with its number, as lists show it */
export function OwnIcon({ name, size }: { name: string; size: number }) {
  const kind = useRecordSetup().data?.kinds.find(({ prefix }) => name.startsWith(`${prefix}-`));
  const Icon = kind ? OWN_ICONS[kind.icon] : Folder;
  return <Icon size={size} aria-label={kind?.singular} aria-hidden={kind ? undefined : true} className="shrink-0 text-muted" />;
}
