/** An error of the server as its sentence, in place; and empty states that say what to do next. */
import { Button } from "@mui/material";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { usePlaceOf } from "../shell/Go";

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
  to,
}: {
  title: string;
  children?: ReactNode;
  action?: string;
  onAction?: () => void;
  to?: string; // a view of the crossing that the action leads to
}) {
  const place = usePlaceOf();
  return (
    <div className="empty">
      <b>{title}</b>
      {children}
      {action && (
        <div className="acts">
          {to ? (
            <Button variant="contained" component={Link} to={place(to)}>
              {action}
            </Button>
          ) : (
            <Button variant="contained" onClick={onAction}>
              {action}
            </Button>
          )}
        </div>
      )}
    </div>
  );
}
