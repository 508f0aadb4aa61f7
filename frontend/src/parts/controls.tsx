import {
  cloneElement,
  useId,
  type ComponentProps,
  type InputHTMLAttributes,
  type ReactElement,
  type ReactNode,
} from "react";

type ButtonProps = ComponentProps<"button"> & { look?: "main" | "plain" | "quiet" | "danger" };

const LOOKS = {
  main: "bg-ink text-paper border-ink hover:opacity-90",
  plain: "bg-sheet text-ink border-ink hover:bg-faint",
  quiet: "bg-transparent text-ink-2 border-transparent hover:bg-faint hover:text-ink",
  danger: "bg-sheet text-stop border-stop hover:bg-flood",
};

export function Button({ look = "plain", className = "", type = "button", ...rest }: ButtonProps) {
  return (
    <button
      type={type}
      className={`inline-flex items-center gap-2 rounded-[7px] border-[1.5px] px-2.5 py-1 text-left text-[13px] font-semibold disabled:opacity-45 ${LOOKS[look]} ${className}`}
      {...rest}
    />
  );
}

export function Key({ children }: { children: ReactNode }) {
  return (
    <kbd className="rounded border touch:hidden border-b-2 border-line bg-sheet px-1.5 font-sans text-[11px] font-semibold text-ink-2">
      {children}
    </kbd>
  );
}

export const FIELD =
  "w-full rounded-md border border-line bg-sheet px-2 py-1 text-ink placeholder:text-ink-2 aria-[invalid=true]:border-stop";

/** A control with its label; what explains or refuses its value describes it, and is not part of its name. */
export function Field({
  label,
  unit,
  problem,
  hint,
  needed,
  children,
}: {
  label: string;
  unit?: string;
  problem?: string;
  hint?: ReactNode;
  /** Marked: nothing goes on without it. */
  needed?: boolean;
  children: ReactElement<{ id?: string; "aria-describedby"?: string; "aria-invalid"?: boolean }>;
}) {
  const id = useId();
  return (
    <div>
      <label htmlFor={id} className="mb-0.5 flex items-baseline gap-1.5 text-[13px] font-medium">
        {label} {unit && <span className="font-normal text-ink-2">{unit}</span>}
        {needed && (
          <span aria-hidden title="a verdict needs it" className="font-bold text-deep">
            *
          </span>
        )}
      </label>
      {cloneElement(children, { id, "aria-describedby": `${id}-more`, "aria-invalid": Boolean(problem) })}
      <div id={`${id}-more`}>
        {hint && <div className="mt-0.5 text-[12px] text-ink-2">{hint}</div>}
        {problem && (
          <p role="alert" className="mt-0.5 text-[12.5px] font-medium text-stop">
            {problem}
          </p>
        )}
      </div>
    </div>
  );
}

export function TextInput(props: InputHTMLAttributes<HTMLInputElement>) {
  return <input {...props} className={`${FIELD} ${props.className ?? ""}`} />;
}
