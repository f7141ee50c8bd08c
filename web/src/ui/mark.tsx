/** The sign of the house: the head of a caulking iron. */
export function Mark() {
  return (
    <svg width="16" height="10" viewBox="0 0 16 10" aria-hidden="true">
      <path d="M0 1h16l-3.6 7H3.6z" fill="currentColor" />
    </svg>
  );
}
