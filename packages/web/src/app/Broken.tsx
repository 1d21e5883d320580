// What is shown instead of a white page when drawing it, or one of its panes, fails: what happened, and how
// to go on. The other panes stay as they are.
import { Component, type ReactNode } from 'react';
import styled from 'styled-components';
import { Button, Trouble } from '../parts/ui';

const Page = styled.main`
  max-width: 620px;
  margin: 12vh auto;
  padding: 0 24px;
`;

export class Broken extends Component<
  {
    readonly children: ReactNode;
    /** What it is called where it is one pane of a page. */
    readonly pane?: string;
  },
  { readonly error: Error | null }
> {
  override state = { error: null as Error | null };
  static getDerivedStateFromError(error: Error): { error: Error } {
    return { error };
  }

  override render(): ReactNode {
    const { error } = this.state;
    const { pane, children } = this.props;
    if (!error) return children;
    if (pane !== undefined)
      return (
        <div style={{ padding: 16 }}>
          <Trouble>
            {pane} could not be drawn: {error.message}
          </Trouble>
          <Button onPress={() => this.setState({ error: null })}>Draw it again</Button>
        </div>
      );
    return (
      <Page>
        <Trouble>This page could not be drawn: {error.message}</Trouble>
        <p>
          What you changed up to a moment ago is saved. Load the page again; if it fails again, go back to the
          board.
        </p>
        <Button onPress={() => window.location.reload()}>Load again</Button>{' '}
        <Button onPress={() => window.location.assign('/board')}>To the board</Button>
      </Page>
    );
  }
}
