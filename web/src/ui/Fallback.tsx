import { Box, Button, Typography } from '@mui/material';
import { Component, type ReactNode } from 'react';

interface Props {
  /** What it is that may fail, as a person calls it. */
  of: string;
  /** Whenever this changes, another try is made. */
  again?: unknown;
  children: ReactNode;
}

/** Keeps what fails in one part of the page from taking the rest with it: the part says so and can be tried again. */
export class Fallback extends Component<Props, { failed: boolean }> {
  state = { failed: false };

  static getDerivedStateFromError() {
    return { failed: true };
  }

  componentDidUpdate(before: Props) {
    if (this.state.failed && before.again !== this.props.again) this.setState({ failed: false });
  }

  render() {
    if (!this.state.failed) return this.props.children;
    return (
      <Box role="alert" sx={{ p: 2 }}>
        <Typography sx={{ mb: 1 }}>
          {this.props.of} could not be shown. What was saved is safe; nothing else is touched.
        </Typography>
        <Button variant="outlined" onClick={() => this.setState({ failed: false })}>
          Try again
        </Button>
      </Box>
    );
  }
}
