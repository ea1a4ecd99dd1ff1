import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { BLOCKS, type BlockKind } from '../../core/naming/blocks';
import styles from './naming.module.css';

/** The kinds of blocks that can be added, each with what it writes. */
export const KindMenu = ({
  at,
  without = [],
  add,
  close,
}: {
  at: HTMLElement | null;
  without?: readonly BlockKind[];
  add: (kind: BlockKind) => void;
  close: () => void;
}) => (
  <Menu anchorEl={at} open={at !== null} onClose={close}>
    {BLOCKS.filter((b) => !without.includes(b.kind)).map((b) => (
      <MenuItem key={b.kind} dense onClick={() => add(b.kind)} className={styles.kind}>
        {b.term}
        <span className="soft">{b.meaning}</span>
      </MenuItem>
    ))}
  </Menu>
);
