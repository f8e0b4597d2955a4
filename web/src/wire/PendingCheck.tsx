import { type ComponentProps, useState } from "react";
import Form from "react-bootstrap/Form";

type Props = Omit<ComponentProps<typeof Form.Check>, "onChange"> & {
  checked: boolean;
  onToggle: (checked: boolean) => Promise<unknown>;
};

/** A box that shows the tick at once, and what the server says when it has answered. */
export function PendingCheck({ checked, onToggle, ...rest }: Props) {
  const [pending, setPending] = useState<boolean | null>(null);
  return (
    <Form.Check
      {...rest}
      checked={pending ?? checked}
      onChange={(event) => {
        setPending(event.target.checked);
        void onToggle(event.target.checked).finally(() => setPending(null));
      }}
    />
  );
}
