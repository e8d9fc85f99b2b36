import { Component, type ReactNode } from "react";
import { Trouble } from "./states";

/** Keeps a fault of a page from leaving nothing on the screen. */
export class Boundary extends Component<{ children: ReactNode }, { error: Error | null }> {
  state = { error: null };

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  render() {
    if (!this.state.error) return this.props.children;
    return <div className="p-8"><Trouble error={this.state.error} retry={() => window.location.reload()} /></div>;
  }
}
