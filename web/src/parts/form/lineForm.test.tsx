/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { afterEach, describe, expect, test } from '@jest/globals';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, render, screen, waitFor } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import { LineForm } from './LineForm';

afterEach(cleanup);

function openForm(more: Partial<Parameters<typeof LineForm>[0]> = {}) {
  const sent: string[] = [];
  render(
    <QueryClientProvider client={new QueryClient()}>
      <LineForm
        label="Port of call"
        button="Add"
        isReady={(text) => text.trim() !== ''}
        faultOf={(text) => (text.includes(' ') ? 'Name one port. Nothing was added.' : null)}
        onSend={(text) => sent.push(text)}
        {...more}
      />
    </QueryClientProvider>,
  );
  const field = screen.getByRole<HTMLInputElement>('textbox', { name: 'Port of call' });
  const button = screen.getByRole<HTMLButtonElement>('button', { name: 'Add' });
  return { sent, field, button, user: userEvent.setup() };
}

describe('a field and its button', () => {
  test('send what is written by Enter or a click, and are empty again', async () => {
    const { sent, field, button, user } = openForm();
    expect(button.disabled).toBe(true);
    await user.type(field, 'Arundel{Enter}');
    await waitFor(() => expect(sent).toEqual(['Arundel']));
    await waitFor(() => expect(field.value).toBe(''));
    await user.type(field, 'Bremen');
    await user.click(button);
    await waitFor(() => expect(sent).toEqual(['Arundel', 'Bremen']));
  });

  test('say what is wrong, and keep it to be corrected', async () => {
    const { sent, field, user } = openForm();
    await user.type(field, 'Arundel Bremen{Enter}');
    expect((await screen.findByRole('alert')).textContent).toBe('Name one port. Nothing was added.');
    expect([field.value, field.getAttribute('aria-invalid'), sent]).toEqual(['Arundel Bremen', 'true', []]);
    expect(field.getAttribute('aria-describedby')).toBe(screen.getByRole('alert').id);
    await user.type(field, '{Backspace>7/}{Enter}');
    await waitFor(() => expect(sent).toEqual(['Arundel']));
    expect(screen.queryByRole('alert')).toBeNull();
  });

  test('send nothing that is not ready, and keep what stays', async () => {
    const { sent, field, user } = openForm({ value: 'Arundel', isReady: (text) => text !== 'Arundel', stays: true });
    await user.type(field, '{Enter}');
    await user.type(field, 's{Enter}');
    await waitFor(() => expect(sent).toEqual(['Arundels']));
    expect(field.value).toBe('Arundels');
  });
});
