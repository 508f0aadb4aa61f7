import { ToggleGroup } from "radix-ui";
import type { ComponentProps, ReactNode } from "react";

/** A group of which one is chosen. Arrows go from one to the next and choose nothing; Space and Enter do. */
export function OneOf({
  label,
  value,
  onValue,
  className,
  children,
}: {
  label: string;
  value: string;
  onValue: (next: string) => void;
  className?: string;
  children: ReactNode;
}) {
  return (
    <ToggleGroup.Root
      type="single"
      role="radiogroup"
      aria-label={label}
      value={value}
      onValueChange={(next) => next !== "" && onValue(next)}
      className={className}
    >
      {children}
    </ToggleGroup.Root>
  );
}

/** One of them. */
export function One(props: ComponentProps<typeof ToggleGroup.Item>) {
  return <ToggleGroup.Item {...props} />;
}
