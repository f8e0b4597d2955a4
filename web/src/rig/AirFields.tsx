import type { Air } from "../api/queries";
import { QuantityInput } from "../units/QuantityInput";

/** Temperature, humidity and pressure with how well each is known. */
export function AirFields({ air, onChange }: { air: Air; onChange: (air: Air) => void }) {
  const set = (change: Partial<Air>) => onChange({ ...air, ...change });
  return (
    <div className="fields">
      <QuantityInput
        label="Air temperature"
        quantity="temperature"
        decimals={1}
        value={air.temperature_c}
        onChange={(value) => value !== null && set({ temperature_c: value })}
      />
      <QuantityInput
        label="Thermometer, ±"
        quantity="temperatureStep"
        decimals={2}
        value={air.temperature_tolerance_c}
        onChange={(value) => value !== null && set({ temperature_tolerance_c: value })}
      />
      <QuantityInput
        label="Humidity"
        unit="% RH"
        perUnit={0.01}
        decimals={0}
        value={air.relative_humidity}
        onChange={(value) => value !== null && set({ relative_humidity: value })}
      />
      <QuantityInput
        label="Hygrometer, ±"
        unit="%"
        perUnit={0.01}
        decimals={0}
        value={air.humidity_tolerance}
        onChange={(value) => value !== null && set({ humidity_tolerance: value })}
      />
      <QuantityInput
        label="Air pressure"
        unit="kPa"
        perUnit={1000}
        decimals={3}
        value={air.pressure_pa}
        onChange={(value) => value !== null && set({ pressure_pa: value })}
      />
    </div>
  );
}
