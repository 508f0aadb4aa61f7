import type { Schemas } from "../../api/client";
import { One, OneOf } from "../../parts/OneOf";
import type { Part } from "./BackPicture";
import { ContactGlyph, DRAWN, type Contact } from "./contacts";
import { GearForm, type Shared } from "./GearForm";
import { shapeOf, withValue, type Doc } from "./schema";

type Back = Schemas["Back"];

const LEVELS: Record<string, string> = {
  speaker: "a speaker socket",
  line: "a line socket",
  instrument: "an instrument socket",
  microphone: "a microphone socket",
  phones: "a headphone socket",
};

interface Chosen {
  title: string;
  about: string;
  says: string;
  fields: readonly string[];
}

/** What a part of the picture is, and the fields of the record that say so. */
function chosenIn(back: Back, part: Part): Chosen | undefined {
  if (part.of === "inside")
    return { title: "Inside", about: "what is in it", says: back.inside, fields: back.inside_fields };
  if (part.of === "socket") {
    const jack = back.jacks.find((j) => j.socket === part.id);
    return (
      jack && { title: jack.label, about: LEVELS[jack.level] ?? "", says: jack.says, fields: jack.fields }
    );
  }
  const knob = back.knobs.find((k) => k.control === part.id);
  const says = knob && `${knob.positions.join(", ")}; in a new hook-up it stands at ${knob.stands}.`;
  return knob && { title: knob.label, about: "a control", says: says!, fields: knob.fields };
}

/** A field that says what plugs do, as drawn choices. */
function Wiring({ name, shared }: { name: string; shared: Shared }) {
  const schema = shared.root.properties![name]!;
  const { of } = shapeOf(schema, shared.root, name);
  const names = schema["x-names"] ?? of["x-names"] ?? {};
  const drawn: Record<string, Contact> = DRAWN[name]!;
  return (
    <div>
      <h3 className="mb-1.5 text-[13px] font-semibold">{schema.title}</h3>
      <OneOf
        label={schema.title ?? name}
        value={String(shared.doc[name] ?? "")}
        onValue={(next) => shared.onChange(withValue(shared.doc, [name], next) as Doc)}
        className="grid gap-2"
      >
        {(of.enum ?? []).map((option) => (
          <One
            key={option}
            value={String(option)}
            className="grid w-full grid-cols-[56px_1fr] items-center gap-3 rounded-lg border border-line bg-sheet px-2.5 py-1.5 text-left text-[13px] hover:border-ink aria-checked:border-2 aria-checked:border-deep aria-checked:bg-shoal"
          >
            <ContactGlyph contact={drawn[String(option)] ?? "plain"} />
            <span>
              {names[String(option)] ?? option}
              {option === "unknown" && (
                <span className="block text-[12px] text-ink-2">counts as check first</span>
              )}
            </span>
          </One>
        ))}
      </OneOf>
    </div>
  );
}

/** The fields of what is selected in the picture. */
export function PartPanel({ back, part, shared }: { back: Back; part: Part; shared: Shared }) {
  const chosen = chosenIn(back, part);
  if (!chosen) return null;
  const wiring = chosen.fields.filter((name) => DRAWN[name] && shared.root.properties?.[name]);
  const rest = chosen.fields.filter((name) => !wiring.includes(name));
  return (
    <section aria-label={`Fields of ${chosen.title}`} className="grid gap-3 px-4 py-3">
      <div>
        <h2 className="flex items-baseline justify-between gap-2 text-[14px] font-bold">
          {chosen.title} <span className="text-[12.5px] font-normal text-ink-2">{chosen.about}</span>
        </h2>
        <p className="text-[13px] text-ink-2">{chosen.says}</p>
      </div>
      {wiring.map((name) => (
        <Wiring key={name} name={name} shared={shared} />
      ))}
      {rest.length > 0 && <GearForm {...shared} only={rest} />}
      {chosen.fields.length === 0 && (
        <p className="text-[12.5px] text-ink-2">
          Nothing about it is set here: every unit of its kind has it so.
        </p>
      )}
    </section>
  );
}
