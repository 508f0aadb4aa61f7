import { Field, FIELD, TextInput } from "../../parts/controls";
import { useGoals } from "../bench/useFinder";
import type { Part } from "./usePlan";

type Wish = NonNullable<Part["wish"]>;

/** What a hook-up that is yet to be found should do. */
export function WishFields({ wish, onWish }: { wish: Wish; onWish: (wish: Wish) => void }) {
  const goals = useGoals();
  return (
    <div className="grid grid-cols-2 gap-2">
      <Field label="It should be">
        <select
          className={FIELD}
          value={wish.goal}
          onChange={(event) => onWish({ ...wish, goal: event.target.value as Wish["goal"] })}
        >
          {goals.map((goal) => (
            <option key={goal.id} value={goal.id}>
              {goal.name}
            </option>
          ))}
        </select>
      </Field>
      {goals.find((goal) => goal.id === wish.goal)?.levelled && (
        <Field label="Down by" unit="dB">
          <TextInput
            type="number"
            min={0}
            max={60}
            value={wish.down_db}
            onChange={(event) => onWish({ ...wish, down_db: Number(event.target.value) })}
          />
        </Field>
      )}
    </div>
  );
}
