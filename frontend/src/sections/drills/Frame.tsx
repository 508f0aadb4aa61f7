import type { ReactNode } from "react";

/** What is asked about on the left; how it is answered, or what is told after it, on the right. */
export function Frame({
  picture,
  told,
  children,
}: {
  picture: ReactNode;
  told?: ReactNode;
  children: ReactNode;
}) {
  return (
    <div className="flex flex-col lg:min-h-0 lg:flex-1 lg:flex-row">
      <div className="flex min-w-0 flex-col lg:min-h-0 lg:flex-1">{picture}</div>
      <aside
        aria-label={told ? "What it was" : "Answer"}
        className="flex shrink-0 flex-col border-t border-line bg-sheet lg:w-[320px] lg:border-t-0 lg:border-l xl:w-[372px]"
      >
        {told ?? children}
      </aside>
    </div>
  );
}
