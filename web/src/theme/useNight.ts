import { useColorScheme } from '@mui/material/styles';

/** Whether the night colours are shown, and how to change between day and night. */
export function useNight(): { night: boolean; toggle: () => void } {
  const { mode, systemMode, setMode } = useColorScheme();
  const night = (mode === 'system' ? systemMode : mode) === 'dark';
  return { night, toggle: () => setMode(night ? 'light' : 'dark') };
}
