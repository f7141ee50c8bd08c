import { useMaterials } from "../api/queries";
import { Field, inputLook } from "../ui/field";

/** Chooses a material by its key; none is proposed. */
export function MaterialField(props: { value: string; onChange: (key: string) => void }) {
  const materials = useMaterials();
  return (
    <Field label="Material">
      <select
        className={inputLook}
        name="material"
        required
        value={props.value}
        onChange={(event) => props.onChange(event.target.value)}
      >
        <option value="" disabled>
          Choose…
        </option>
        {materials.data?.map((one) => (
          <option key={one.key} value={one.key}>
            {one.name} ({one.process.toLowerCase()})
          </option>
        ))}
      </select>
    </Field>
  );
}
