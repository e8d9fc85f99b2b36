import { Component, type ReactNode } from "react";
import { Problem } from "../api/client";
import { Trouble } from "../controls/notices";

/** Keeps a fault of a page from leaving nothing on the screen: it says what, and has a way back. */
export class Boundary extends Component<{ children: ReactNode }, { error: Error | null }> {
  state: { error: Error | null } = { error: null };

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  render() {
    const { error } = this.state;
    if (!error) return this.props.children;
    const said =
      error instanceof Problem
        ? error
        : new Problem(
            `this page failed: ${error.message}`,
            "what you typed or drew is kept; load the page again, " +
              "or go back and tell us what you did",
            0,
          );
    return (
      <div className="flex flex-col items-start gap-3 p-8">
        <Trouble error={said} />
        <div className="flex gap-2">
          <button
            type="button"
            className="btn btn-sm btn-primary"
            onClick={() => window.location.reload()}
          >
            Load it again
          </button>
          <a className="btn btn-sm" href="/">
            Back to the first page
          </a>
        </div>
      </div>
    );
  }
}
