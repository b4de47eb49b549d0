/** The mark: the edge of a piece of lace. */
export function Mark() {
  return (
    <svg
      viewBox="0 0 32 32"
      width="26"
      height="26"
      fill="none"
      stroke="currentColor"
      strokeWidth="1.7"
      aria-hidden
    >
      <path d="M3 7 A13 13 0 0 0 29 7" />
      <path d="M3 7 a4.33 4.6 0 0 0 8.67 0 a4.33 4.6 0 0 0 8.66 0 a4.33 4.6 0 0 0 8.67 0" />
      <path d="M6.2 15 a3.3 3.6 0 0 0 6.5 1.4 a3.3 3.6 0 0 0 6.6 0 a3.3 3.6 0 0 0 6.5 -1.4" />
      <path d="M11.5 21.5 a2.6 3 0 0 0 4.5 1.2 a2.6 3 0 0 0 4.5 -1.2" />
      <circle cx="16" cy="28" r="1.6" fill="currentColor" stroke="none" />
    </svg>
  )
}
