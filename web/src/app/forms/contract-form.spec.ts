import { addPerson, createAuthority } from '@loyal-hinge/contract';
import { contractForm, isComplete, tellFaults } from './contract-form';

const form = () => contractForm({ name: addPerson.shape.name }, { name: '', note: '' });

describe('a form of the contract', () => {
  it('is judged by the contract’s schemas, field by field', () => {
    const filled = form();
    expect([filled.valid, filled.controls.note.valid]).toEqual([false, true]);
    filled.controls.name.setValue('approver');
    expect(filled.valid).toBe(true);
    const numbers = contractForm(createAuthority.shape, { validDays: 0 });
    expect(numbers.controls.validDays.errors?.['fits']).toMatch(/^At least /);
  });

  it('tells what is missing only once somebody wants to send it', () => {
    const empty = form();
    expect(empty.touched).toBe(false);
    expect([isComplete(empty, new Event('submit')), empty.touched]).toEqual([false, true]);
  });

  it('leads to the first field that is wrong, from the form or a button within it', () => {
    const around = document.createElement('form');
    around.innerHTML = '<input class="ng-valid"><input class="ng-invalid"><input class="ng-invalid"><button></button>';
    document.body.append(around);
    for (const target of [around, around.querySelector('button')]) {
      const sent = new Event('submit', { bubbles: true });
      target?.dispatchEvent(sent);
      isComplete(form(), sent);
      expect(document.activeElement).toBe(around.querySelectorAll('input')[1]);
      around.querySelectorAll('input')[0]?.focus();
    }
    around.remove();
  });

  it('shows at its field what the server found, until the field is changed', () => {
    const sent = form();
    sent.controls.name.setValue('approver');
    tellFaults(sent, { title: '', detail: '', remedy: '', faults: [{ place: 'name', says: 'Taken.' }] });
    expect([sent.valid, sent.controls.name.errors]).toEqual([false, { server: 'Taken.' }]);
    sent.controls.name.setValue('approver-2');
    expect(sent.valid).toBe(true);
  });

  it('goes back to what it began with', () => {
    const filled = form();
    filled.controls.note.setValue('something');
    filled.reset();
    expect(filled.getRawValue()).toEqual({ name: '', note: '' });
  });
});
