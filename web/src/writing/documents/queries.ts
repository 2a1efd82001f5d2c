import { useQuery } from '@tanstack/react-query';
import { asked } from '../../api/asked';

export const useDocuments = (text: string) =>
  useQuery({ ...asked('listDocuments', text ? { text } : {}), placeholderData: (previous) => previous });

/** Those that have a version in force. */
export const useDocumentsToSend = () => useQuery({ ...asked('listDocuments', { toSend: 'true' }), staleTime: 30_000 });

export const useDocument = (id: number) => useQuery(asked('getDocument', { id }));

export const useDocumentLinks = (id: number) => useQuery(asked('listDocumentLinks', { id }));
