/** An error of the server as its sentence, in place; and empty states that say what to do next. */
import { Button } from "@mui/material";
import type { ReactNode } from "react";

export function Told({ error }: { error: unknown }) {
  if (!error) return null;
  return (
    <div className="error" role="alert">
      {error instanceof Error ? error.message : String(error)}
    </div>
  );
}

export function Empty({
  title,
  children,
  action,
  onAction,
}: {
  title: string;
  children?: ReactNode;
  action?: string;
  onAction?: () => void;
}) {
  return (
    <div className="empty">
      <b>{title}</b>
      {children}
      {action && (
        <div className="acts">
          <Button variant="contained" onClick={onAction}>
            {action}
          </Button>
        </div>
      )}
    </div>
  );
}
