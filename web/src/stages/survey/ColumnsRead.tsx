import type { Points } from "../../api/types";
import { Pick, Row, Table } from "../../ui/parts";

type ColumnsReadProps = {
  columns: Points["columns"];
  /** What a column may be: the name core gives it, and what it is called here. */
  choices: readonly (readonly [string, string])[];
  onUse: (use: string[]) => void;
};

/** How each column of a table was read, with its first cells; a person may say that it is something else. */
export function ColumnsRead({ columns = [], choices, onUse }: ColumnsReadProps) {
  const now = columns.map((c) => c.used);
  return (
    <Table caption="How each column was read" head={["column", "begins with", "used as", "in"]}>
      {columns.map((c, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: columns keep their order
        <Row key={i}>
          <td>{c.head || i + 1}</td>
          <td>{c.first.join("; ")}</td>
          <td>
            <Pick
              label={`Column ${c.head || i + 1} is`}
              hideLabel
              options={[["", "not used"], ...choices]}
              value={c.used}
              onPick={(is) => onUse(now.map((was, n) => (n === i ? is : was === is ? "" : was)))}
            />
          </td>
          <td>{c.unit && `${c.unit}${c.said ? "" : " (not said)"}`}</td>
        </Row>
      ))}
    </Table>
  );
}
