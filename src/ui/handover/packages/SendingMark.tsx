import { SENDING_WORDS, type SendingState } from '../../../core/handover';
import { Tag } from '../../platform/Tag';

const TONES = {
  done: 'proven',
  partly: 'stop',
  paused: 'look',
  waiting: 'look',
  running: 'plain',
  queued: 'plain',
  cancelled: 'plain',
} as const satisfies Record<SendingState, string>;

/** How a sending stands, with a mark of its own. */
export const SendingMark = ({ state }: { state: SendingState }) => (
  <Tag tone={TONES[state]}>{SENDING_WORDS[state]}</Tag>
);
