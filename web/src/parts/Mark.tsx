export function Mark({ size = 14 }: { size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 14 14" aria-hidden="true">
      <path fill="currentColor" d="M0 0h6v6H0z" />
      <path fill="none" stroke="currentColor" strokeWidth="1.4" d="M8.7.7h4.6v4.6H8.7zM.7 8.7h4.6v4.6H.7z" />
      <path fill="var(--teal)" d="M8 8h6v6H8z" />
    </svg>
  );
}
