import type { ReactNode } from "react";
import { ByEar } from "./ByEar";
import { InOrder } from "./InOrder";
import { Level } from "./Level";
import { May } from "./May";
import { Mend } from "./Mend";
import { NumberSheet } from "./NumberSheet";
import { Spot } from "./Spot";
import type { Answer, Asked } from "./useDrills";

export interface Asking {
  asked: Asked;
  isBusy: boolean;
  onAnswer: (answer: Answer) => void;
  /** What is told after the answer; undefined before it. */
  told?: ReactNode;
}

const BY_KIND: Record<string, (asking: Asking) => ReactNode> = {
  spot: (asking) => <Spot {...asking} />,
  may: (asking) => <May {...asking} />,
  mend: (asking) => <Mend {...asking} />,
  level: (asking) => <Level {...asking} />,
  number: (asking) => <NumberSheet {...asking} />,
  order: (asking) => <InOrder {...asking} />,
  ear: (asking) => <ByEar {...asking} />,
};

/** A question by its kind. */
export function Question(asking: Asking) {
  return BY_KIND[asking.asked.kind]?.(asking) ?? null;
}
