/** Right or not, told by its shape as well as its colour; `beside` words that say it too, it is no news. */
export function Right({ right, size = 16, beside }: { right: boolean; size?: number; beside?: boolean }) {
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 22 22"
      {...(beside ? { "aria-hidden": true } : { role: "img", "aria-label": right ? "right" : "not right" })}
      className="shrink-0"
    >
      {right ? (
        <>
          <circle cx="11" cy="11" r="10" className="fill-ok" />
          <path d="M6 11l4 4 6-7.5" className="stroke-sheet" strokeWidth="2.4" fill="none" />
        </>
      ) : (
        <>
          <circle cx="11" cy="11" r="9.2" fill="none" className="stroke-ink-2" strokeWidth="1.7" />
          <path d="M7 7l8 8M15 7l-8 8" className="stroke-ink" strokeWidth="2.2" />
        </>
      )}
    </svg>
  );
}
