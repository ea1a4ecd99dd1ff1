/** The product's sign: spines on a board. */
export function Sign() {
  return (
    <svg width="48" height="34" viewBox="0 0 48 34" aria-hidden="true">
      <g fill="currentColor">
        <rect x="3" y="12" width="8" height="19" />
        <rect x="13" y="4" width="7" height="27" />
        <rect x="22" y="8" width="9" height="23" />
        <rect x="33" y="0" width="3" height="31" />
        <rect x="38" y="10" width="7" height="21" />
        <rect x="0" y="31" width="48" height="3" />
      </g>
    </svg>
  );
}
