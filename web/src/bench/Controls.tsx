import type { ControlSheet } from "../api/client";
import { Slider } from "./Slider";

interface Props<R extends object> {
  sheet: ControlSheet;
  recipe: R;
  onChange: (changes: Partial<R>) => void;
  /** Fields that something else on the screen takes care of. */
  without?: string[];
  /** Fields that follow a curve: they have no value of their own meanwhile. */
  moved?: string[];
}

/** All controls of a recipe: the important ones first, the others by what they do to the sound. */
export function Controls<R extends object>(props: Props<R>) {
  const { sheet, recipe, onChange, without = [], moved = [] } = props;
  const values = recipe as Record<string, unknown>;
  const set = (name: string, value: unknown) => onChange({ [name]: value } as Partial<R>);
  const controls = sheet.controls.filter((control) => !without.includes(control.name));
  const main = controls.filter((control) => control.main);
  const rest = controls.filter((control) => !control.main);
  const choices = sheet.choices.filter((choice) => !without.includes(choice.name));
  const groups = [...new Set([...rest, ...choices].map((one) => one.group))];
  return (
    <>
      <div className={main.length > 4 ? "dials-main dials-many" : "dials-main"}>
        {main.map((control) => (
          <Slider
            key={control.name}
            control={control}
            value={values[control.name] as number}
            onChange={(value) => set(control.name, value)}
            moves={moved.includes(control.name)}
            big
          />
        ))}
      </div>
      <div className="dial-groups">
        {groups.map((group) => (
          <fieldset key={group} className="dial-group">
            <legend>{group}</legend>
            {choices
              .filter((choice) => choice.group === group)
              .map((choice) => (
                <label key={choice.name} className="dial-choice" title={choice.help}>
                  {choice.label}
                  <select
                    className="form-select form-select-sm"
                    value={String(values[choice.name])}
                    onChange={(event) => set(choice.name, event.target.value)}
                  >
                    {choice.options.map((option) => (
                      <option key={option}>{option}</option>
                    ))}
                  </select>
                </label>
              ))}
            {rest
              .filter((control) => control.group === group)
              .map((control) => (
                <Slider
                  key={control.name}
                  control={control}
                  value={values[control.name] as number}
                  onChange={(value) => set(control.name, value)}
                  moves={moved.includes(control.name)}
                />
              ))}
          </fieldset>
        ))}
      </div>
    </>
  );
}
