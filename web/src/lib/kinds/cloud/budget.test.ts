import { describe, expect, it } from 'vitest';
import { Budget } from './budget';

describe('points that are drawn while a cloud is turned', () => {
  it('are fewer where the machine is late, down to as many as tell something, and more again where it is not', () => {
    const budget = new Budget();
    const most = budget.points;
    expect(budget.isOver(most)).toBe(false);
    budget.waited(80);
    expect(budget.points).toBe(most / 2);
    // a single very late one does not take nearly all
    budget.waited(5_000);
    expect(budget.points).toBe(most * 0.2);
    for (let i = 0; i < 20; i++) budget.waited(300);
    expect(budget.points).toBe(20_000);
    expect(budget.isOver(20_001)).toBe(true);
    for (let i = 0; i < 60; i++) budget.waited(12);
    expect(budget.points).toBe(most);
  });
  it('stay as many as they are where a picture is just in time', () => {
    const budget = new Budget();
    budget.waited(80);
    const { points } = budget;
    budget.waited(30);
    expect(budget.points).toBe(points);
  });
});
