'use client';
import { Rehearsal } from './Rehearsal';

/** What goes to the next person; first of all whether their edit will find its originals. */
export function HandOver() {
  return <Rehearsal />;
}
