'use client';
import Button from '@mui/material/Button';
import { useColorScheme } from '@mui/material/styles';

export function ThemeButton() {
  const { mode, setMode } = useColorScheme();
  return (
    <Button
      size="small"
      color="inherit"
      onClick={() => setMode(mode === 'dark' ? 'light' : 'dark')}
      aria-label={mode === 'dark' ? 'Light theme' : 'Dark theme'}
      sx={{ minWidth: 0, color: 'var(--soft)' }}
    >
      {mode === 'dark' ? 'Light' : 'Dark'}
    </Button>
  );
}
