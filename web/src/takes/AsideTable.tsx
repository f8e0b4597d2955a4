import { grouped } from "../units/units";

interface Props {
  lines: { line: number; text: string; reason: string }[];
}

/** Lines that were put aside: where they stood, what they said, and why. */
export function AsideTable({ lines }: Props) {
  return (
    <table>
      <thead>
        <tr>
          <th scope="col">line</th>
          <th scope="col">text</th>
          <th scope="col">why</th>
        </tr>
      </thead>
      <tbody>
        {lines.map((one) => (
          <tr key={one.line}>
            <td className="figure">{grouped(one.line, 0)}</td>
            <td>
              <code>{one.text}</code>
            </td>
            <td>{one.reason}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
