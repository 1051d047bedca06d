'use client';

import IconButton from '@mui/material/IconButton';
import Tooltip from '@mui/material/Tooltip';
import Link from 'next/link';
import { HelpIcon, NightIcon, PulseMark, VIEW_ICONS } from './icons.tsx';
import { ShortcutList, useShortcutList } from './Shortcuts.tsx';
import { useNight } from '../../theme/useNight.ts';
import styles from './frame.module.css';
import { VIEWS, type ViewId } from './views.ts';

/** The slim rail on the left: home, the views, day and night. */
export function Rail({ address, view }: { address: (view: ViewId) => string; view: ViewId }) {
  const { night, toggle } = useNight();
  const { open, show, close } = useShortcutList();
  return (
    <nav className={styles.rail} aria-label="Views">
      <Tooltip title="All plans" placement="right">
        <Link href="/" className={styles.mark} aria-label="All plans">
          <PulseMark />
        </Link>
      </Tooltip>
      {VIEWS.map(({ id, name, key }) => (
        <Tooltip key={id} title={`${name}, key ${key}`} placement="right">
          <Link
            href={address(id)}
            className={styles.view}
            {...(id === view ? { 'aria-current': 'page' as const } : {})}
          >
            {VIEW_ICONS[id]}
            {name}
          </Link>
        </Tooltip>
      ))}
      <span className={styles.space} />
      <Tooltip title="Keys and guide, key ?" placement="right">
        <IconButton className={styles.round ?? ''} aria-label="Keys and guide" onClick={show}>
          <HelpIcon />
        </IconButton>
      </Tooltip>
      <ShortcutList open={open} close={close} />
      <Tooltip title={night ? 'Day' : 'Night'} placement="right">
        <IconButton
          className={styles.round ?? ''}
          aria-label={night ? 'Day colours' : 'Night colours'}
          onClick={toggle}
        >
          <NightIcon />
        </IconButton>
      </Tooltip>
    </nav>
  );
}
