import { Jobs } from '../ui/jobs';

/** The first page: the job, where there is one, else the list. */
export default function Page() {
  return <Jobs straightIn />;
}
