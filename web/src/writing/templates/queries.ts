import { useQuery } from '@tanstack/react-query';
import { asked } from '../../api/asked';

export const useTemplates = (text: string) =>
  useQuery({ ...asked('listTemplates', text ? { text } : {}), placeholderData: (previous) => previous });

export const useTemplate = (id: number | null) => useQuery({ ...asked('getTemplate', { id: id ?? 0 }), enabled: id !== null });

/** What may be put into a draft, what fits the answered email first. */
export const useTemplatesFor = (outgoingId: number) => useQuery({ ...asked('listTemplates', { outgoingId }), staleTime: 30_000 });

export const useMergeFields = () => useQuery({ ...asked('listMergeFields'), staleTime: 300_000 });

export const useTemplateFigures = () => useQuery(asked('listTemplateFigures'));
