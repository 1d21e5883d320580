// What is shown instead of a white page when drawing the page itself fails: what happened, and how to go on.
import { Component, type ReactNode } from 'react';
import styled from 'styled-components';
import { Button, Trouble } from '../parts/ui';

const Page = styled.main`
  max-width: 620px;
  margin: 12vh auto;
  padding: 0 24px;
`;

export class Broken extends Component<{ children: ReactNode }, { readonly error: Error | null }> {
  override state = { error: null as Error | null };
  static getDerivedStateFromError(error: Error): { error: Error } {
    return { error };
  }

  override render(): ReactNode {
    const { error } = this.state;
    if (!error) return this.props.children;
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
