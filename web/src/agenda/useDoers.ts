import { useTeam } from '../api/queries';

/** Members who can be given a task: those who are there and do more than read. */
export const useDoers = () => useTeam().data?.members.filter(({ active, role }) => active && role !== 'viewer') ?? [];
