import type { Change, End } from "../../api/client";
import { useMedia } from "../../parts/useMedia";
import { useSize } from "../../parts/useSize";
import { Picture, type Drawn } from "../bench/Picture";
import type { Asked } from "./useDrills";

interface Props {
  picture: NonNullable<Asked["picture"]>;
  /** Ids of units and leads that are pointed at. */
  lit: string[];
  selected?: End;
  still?: boolean;
  purpose?: string;
  onPoint?: (unitOrLead: string) => void;
  onSelect?: (end: End) => void;
  onChange?: (changes: Change[]) => void;
}

const nothing = () => undefined;

/** A hook-up as the Bench draws it, with what each lead is, and without a word of what is found. */
export function OnPicture({ picture, lit, selected, still, purpose, onPoint, onSelect, onChange }: Props) {
  const { ref, width, height } = useSize();
  const wide = useMedia("(min-width: 1024px)");
  const drawn: Drawn = {
    units: picture.units,
    links: picture.links,
    is_on: false,
    analysis: {
      marks: [],
      shares: [],
      amps: [],
      flows: picture.links
        .filter((link) => link.level !== "air" && link.summary !== "fixed lead")
        .map((link) => ({ lead: link.lead, text: link.construction, severity: "fine" })),
    },
  };
  const set = new Set(lit);
  return (
    <div ref={ref} className="min-h-[260px] flex-1 overflow-auto">
      <Picture
        state={drawn}
        lit={{ units: set, leads: set }}
        selected={selected}
        overview={false}
        width={width}
        height={wide ? height : Infinity}
        still={still}
        leadNames
        purpose={purpose}
        onPoint={onPoint}
        onSelect={onSelect ?? (onPoint && ((end) => onPoint(end.unit)))}
        onChange={onChange ?? nothing}
        onCloseUp={nothing}
      />
    </div>
  );
}
