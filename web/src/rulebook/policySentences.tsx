import type { Rulebook } from '@fulvet/core';
import type { ReactNode } from 'react';
import { Choice } from '../parts/Choice';
import { OwnerChoice } from './editor/OwnerChoice';
import {
  ACCOUNT_OPTIONS,
  ACCOUNTS_OPTIONS,
  AFTER_OPTIONS,
  DEAL_OPTIONS,
  LEVEL_OPTIONS,
  LOCK_OPTIONS,
  PEOPLE_OPTIONS,
  SCOPE_OPTIONS,
  SHOWN_OPTIONS,
} from './sentences/defaultSentences';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { policySentences as words } from './words';
import { OwnStrategies } from './OwnStrategies';

export type PolicyStep = 'takeIn' | 'match' | 'create' | 'share';

/** Usual values of a number and its present one, in order. */
const steps = (
  current: number,
  usual: readonly number[],
  label = (value: number): string => value.toFixed(2),
): { value: string; label: string }[] =>
  [...new Set([...usual, current])].sort((first, second) => first - second).map((value) => ({ value: String(value), label: label(value) }));
const inDays = (days: number): string => (days === 1 ? '1 day' : words.days(days));

export type ChangedPart = PolicyStep | 'personal';
export type Change = <Part extends ChangedPart>(part: Part, values: Partial<Rulebook[Part]>) => void;

/** The sentences of each step; what is underlined is changed in place. */
export const SENTENCES: Record<PolicyStep, (rulebook: Rulebook, change: Change, fixed: boolean) => ReactNode> = {
  takeIn: ({ takeIn, personal }, change, fixed) => (
    <>
      <p>
        {filled(words.ofTheMailThat, {
          whatComes: (
            <Choice
              label={words.whatComesIn}
              value={takeIn.scope}
              options={SCOPE_OPTIONS}
              disabled={fixed}
              onChange={(scope) => change('takeIn', { scope })}
            />
          ),
        })}
      </p>
      <p className="text-base text-muted">{words.mailThatIsNot}</p>
      <p className="text-base">
        {filled(words.theOwnerOfA, {
          whetherOwners: (
            <Choice
              label={words.whetherOwnersMayTake}
              value={personal.takeIn}
              options={LOCK_OPTIONS(words.takeInLessOf)}
              disabled={fixed}
              onChange={(lock) => change('personal', { takeIn: lock })}
            />
          ),
        })}
      </p>
    </>
  ),
  match: ({ match }, change, fixed) => (
    <>
      <p>{words.everyEmailThatIs}</p>
      <p>
        {filled(words.itIsFiledUnder, {
          account: (
            <Choice
              label={common.account}
              value={match.account}
              options={ACCOUNT_OPTIONS}
              disabled={fixed}
              onChange={(account) => change('match', { account })}
            />
          ),
        })}
      </p>
      <p>
        {filled(words.itIsFiledUnderDeal, {
          deal: (
            <Choice
              label={words.deal}
              value={match.deal}
              options={DEAL_OPTIONS}
              disabled={fixed}
              onChange={(deal) => change('match', { deal })}
            />
          ),
          scoreThat:
            match.deal === 'scored' &&
            filled(words.aScoreOfAt, {
              scoreThat: (
                <Choice
                  label={words.scoreThatTheBest}
                  value={String(match.threshold)}
                  options={steps(match.threshold, [0.4, 0.5, 0.6, 0.7, 0.8])}
                  disabled={fixed}
                  onChange={(value) => change('match', { threshold: Number(value) })}
                />
              ),
              howFar: (
                <Choice
                  label={words.howFarItMust}
                  value={String(match.margin)}
                  options={steps(match.margin, [0.05, 0.1, 0.15, 0.2, 0.3])}
                  disabled={fixed}
                  onChange={(value) => change('match', { margin: Number(value) })}
                />
              ),
            }),
        })}
      </p>
      <OwnStrategies match={match} change={change} fixed={fixed} />
      {match.deal !== 'never' && (
        <p>
          {filled(words.emailsUpToBefore, {
            howLong: (
              <Choice
                label={words.howLongBeforeA}
                value={String(match.leadDays)}
                options={steps(match.leadDays, [0, 30, 90, 180, 365], inDays)}
                disabled={fixed}
                onChange={(value) => change('match', { leadDays: Number(value) })}
              />
            ),
          })}
        </p>
      )}
    </>
  ),
  create: ({ create }, change, fixed) => (
    <>
      <p>
        {filled(words.anUnknownExternalPerson, {
          whatUnknown: (
            <Choice
              label={words.whatUnknownPeopleBecome}
              value={create.people}
              options={PEOPLE_OPTIONS}
              disabled={fixed}
              onChange={(people) => change('create', { people })}
            />
          ),
        })}
        {create.people !== 'nothing' && (
          <>
            {' '}
            <Choice
              label={words.when}
              value={create.after}
              options={AFTER_OPTIONS}
              disabled={fixed}
              onChange={(after) => change('create', { after })}
            />
            {create.after === 'emails' && (
              <>
                {': '}
                <Choice
                  label={words.howManyEmails}
                  value={String(create.emails)}
                  options={[2, 3, 4, 5, 10].map((value) => ({ value: String(value), label: words.emails(value) }))}
                  shown={words.emailsForEmails(create.emails)}
                  disabled={fixed}
                  onChange={(value) => change('create', { emails: Number(value) })}
                />
              </>
            )}
            , <OwnerChoice value={create.owner} disabled={fixed} onChange={(owner) => change('create', { owner })} />
          </>
        )}
        {create.people === 'contact' && (
          <>
            ,{' '}
            <Choice
              label={common.account}
              value={create.accounts ? 'yes' : 'no'}
              options={ACCOUNTS_OPTIONS}
              disabled={fixed}
              onChange={(value) => change('create', { accounts: value === 'yes' })}
            />
          </>
        )}
        .
      </p>
      {create.people !== 'nothing' && (
        <p>
          {filled(words.noRecordsAreCreated, {
            fromEmails: (
              <Choice
                label={words.fromEmailsWithUp}
                value={String(create.mostPeople)}
                options={steps(create.mostPeople, [5, 10, 30, 100, 1000], String)}
                disabled={fixed}
                onChange={(value) => change('create', { mostPeople: Number(value) })}
              />
            ),
          })}
        </p>
      )}
      <p className="text-base text-muted">{words.neverFromMachineMail}</p>
    </>
  ),
  share: ({ share, personal }, change, fixed) => (
    <>
      <p>
        {filled(words.anEmailThatIs, {
          whoSees: (
            <Choice
              label={words.whoSeesFiledMail}
              value={share.level}
              options={LEVEL_OPTIONS}
              disabled={fixed}
              onChange={(level) => change('share', { level })}
            />
          ),
          whatThey:
            share.level !== 'owner' &&
            filled(words.whoSee, {
              whatThey: (
                <Choice
                  label={words.whatTheySee}
                  value={share.existenceOnly ? 'existence' : 'content'}
                  options={SHOWN_OPTIONS}
                  disabled={fixed}
                  onChange={(value) => change('share', { existenceOnly: value === 'existence' })}
                />
              ),
            }),
        })}
      </p>
      <p className="text-base">
        {filled(words.theOwnerOfA, {
          whetherOwners: (
            <Choice
              label={words.whetherOwnersMayKeep}
              value={personal.share}
              options={LOCK_OPTIONS(words.keepItsMailPrivate)}
              disabled={fixed}
              onChange={(lock) => change('personal', { share: lock })}
            />
          ),
        })}
      </p>
      <p className="text-base text-muted">{words.anUnfiledEmailIs}</p>
    </>
  ),
};
