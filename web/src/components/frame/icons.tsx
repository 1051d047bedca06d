import type { ReactNode } from 'react';

function Icon({ children, size = 20 }: { children: ReactNode; size?: number }) {
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 20 20"
      fill="none"
      stroke="currentColor"
      strokeWidth="1.5"
      strokeLinecap="round"
      strokeLinejoin="round"
      aria-hidden="true"
    >
      {children}
    </svg>
  );
}

/** The mark: one heartbeat. */
export function PulseMark({ size = 22 }: { size?: number }) {
  return (
    <Icon size={size}>
      <path d="M1 11h4l2.2-5.5L11 15.5l2.6-6.6L15 11h4" strokeWidth="1.8" />
    </Icon>
  );
}

/** The pictures of the rail, by view. */
export const VIEW_ICONS = {
  plan: (
    <Icon>
      <path d="M4 5h8M4 10h11M4 15h6" />
    </Icon>
  ),
  fit: (
    <Icon>
      <path d="M4 3v13h13M7 12l3-4 3 2 4-5" />
    </Icon>
  ),
  trace: (
    <Icon>
      <path d="M2 7h3V4h4v3h3V4h3v3h3M2 15h6v-3h6v3h4" />
    </Icon>
  ),
  interrupts: (
    <Icon>
      <path d="M2 13h5V7h4v6h7M9 3.5v1.5M4.5 16.5h11" />
    </Icon>
  ),
  handoff: (
    <Icon>
      <path d="M5 2.5h7l3.5 3.5v11.5H5zM12 2.5V6h3.5M8 10h5M8 13h5" />
    </Icon>
  ),
} as const;

/** Back a step, forward a step. */
export function TurnIcon({ forward = false }: { forward?: boolean }) {
  return (
    <Icon size={18}>
      <path
        d={
          forward
            ? 'M13.5 4.5 17 8l-3.5 3.5M17 8H8a4 4 0 0 0 0 8h3'
            : 'M6.5 4.5 3 8l3.5 3.5M3 8h9a4 4 0 0 1 0 8H9'
        }
      />
    </Icon>
  );
}

/** Day and night. */
export function NightIcon() {
  return (
    <Icon size={18}>
      <path d="M15.5 12.2A6.5 6.5 0 0 1 7.8 4.5a6.5 6.5 0 1 0 7.7 7.7z" />
    </Icon>
  );
}

/** Help: keys and guide. */
export function HelpIcon() {
  return (
    <Icon>
      <path d="M7.2 7.4a2.8 2.8 0 1 1 4.1 2.5c-.9.5-1.3 1-1.3 2.1M10 15.2v.1" />
    </Icon>
  );
}
