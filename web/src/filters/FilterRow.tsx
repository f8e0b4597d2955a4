import Form from "react-bootstrap/Form";
import { readsIn } from "../units/shown";
import { grouped, useUnits } from "../units/units";
import { SettingField } from "./SettingField";
import { swatch } from "./lines";
import type { Asked, Comparison, FilterKind, Filtered } from "./queries";
import { inWords, spelled, usual } from "./words";

interface Props {
  place: number;
  asked: Asked | null;
  told: Filtered | undefined;
  all: Comparison;
  kinds: FilterKind[];
  isShown: boolean;
  onShow: (isShown: boolean) => void;
  onChange: (asked: Asked) => void;
  onRemove: () => void;
  /** Puts it into the sensor's chain; null where there is no place for it. */
  onUse: (() => void) | null;
}

/** One filter: what it is set to, what it leaves and what it costs. */
export function FilterRow(props: Props) {
  const { place, asked, told, all, kinds, isShown, onShow, onChange, onRemove, onUse } = props;
  const units = useUnits();
  const small = readsIn(units, all.quantity.small);
  const now = asked ? spelled(asked.words) : null;
  const kind = now ? kinds.find((one) => one.name === now.name) : undefined;
  const inUse = asked !== null && !asked.is_hindsight && all.taken === asked.words;
  const ms = (seconds: number | null | undefined) => (seconds == null ? "–" : grouped(1000 * seconds, 0));
  const percent = (share: number | null | undefined) => (share == null ? "–" : grouped(100 * share, 0));
  const noise = told?.noise == null ? null : small.step(told.noise);
  return (
    <tr>
      <th scope="row">
        <span className="filter-name">
          <Form.Check
            aria-label={`Draw ${asked?.words ?? "the recording"}`}
            checked={isShown}
            onChange={(event) => onShow(event.target.checked)}
          />
          <span className="swatch" style={swatch(place)} aria-hidden="true" />
          {!asked || !now ? (
            <b>as it came</b>
          ) : (
            <>
              <Form.Select
                size="sm"
                aria-label="Filter"
                title={kind?.what}
                value={now.name}
                onChange={(event) => {
                  const next = kinds.find((one) => one.name === event.target.value);
                  if (next) onChange({ ...asked, words: usual(next, all) });
                }}
              >
                {kinds.map((one) => (
                  <option key={one.name} value={one.name}>
                    {one.label}
                  </option>
                ))}
              </Form.Select>
              {kind?.inputs.map((input) => (
                <SettingField
                  key={`${kind.name} ${input.name}`}
                  input={input}
                  value={now.settings[input.name] ?? Number(input.default)}
                  onChange={(value) =>
                    onChange({
                      ...asked,
                      words: inWords({ ...now, settings: { ...now.settings, [input.name]: value } }),
                    })
                  }
                />
              ))}
            </>
          )}
        </span>
        {asked?.is_hindsight && <span className="not-in-rig">there and back: not in the rig</span>}
      </th>
      <td className="figure">
        {noise === null ? "–" : grouped(noise, twoDigits(noise))}
        {told?.noise_share != null && place > 0 && <span className="quiet"> {percent(told.noise_share)} %</span>}
      </td>
      <td className="figure">{place === 0 ? "–" : ms(told?.rise_s)}</td>
      <td className="figure">{place === 0 ? "–" : ms(told?.delay_s)}</td>
      <td className="figure">{place === 0 ? "–" : percent(told?.overshoot)}</td>
      <td className="figure">
        {percent(told?.spike)}
        {all.spikes > 0 && told && (
          <span className="quiet">
            {" "}
            {told.spikes} of {all.spikes}
          </span>
        )}
      </td>
      <td className="figure">{place === 0 || told?.costs_m == null ? "–" : grouped(1000 * told.costs_m, 0)}</td>
      <td>
        {asked && (
          <div className="row-actions">
            {onUse && !asked.is_hindsight && (
              <button type="button" className="disclosure" disabled={inUse} onClick={onUse}>
                {inUse ? "in use" : "Use it"}
              </button>
            )}
            <button
              type="button"
              className="disclosure"
              aria-pressed={asked.is_hindsight}
              title="Run it there and back: nothing is late then, but no rig can do it"
              onClick={() => onChange({ ...asked, is_hindsight: !asked.is_hindsight })}
            >
              ⇄
            </button>
            <button type="button" className="take-off" aria-label={`Remove ${asked.words}`} onClick={onRemove}>
              ×
            </button>
          </div>
        )}
      </td>
    </tr>
  );
}

/** Decimals that show two digits, enough to tell one filter from another. */
const twoDigits = (value: number) => (value > 0 ? Math.min(6, Math.max(0, 1 - Math.floor(Math.log10(value)))) : 1);
