'use client';
import { useQuery } from '@tanstack/react-query';
import { useServer } from '../platform/job';

/** The watched folders of the job, with what was found in them and is not read yet. */
export const useWatches = () => useQuery({ queryKey: ['watches'], queryFn: useServer().watches });
