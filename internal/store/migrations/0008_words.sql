-- +goose Up

-- A piece off the site is paused.
alter table pieces drop constraint pieces_state_check;
update pieces set state = 'paused' where state = 'resting';
alter table pieces add constraint pieces_state_check check (state in ('draft', 'live', 'paused', 'over'));
alter table pieces rename column rested_at to paused_at;

-- Those paused until a time go live again by themselves.
alter table pieces add column paused_until timestamptz;
create index pieces_due on pieces (paused_until) where paused_until is not null;

-- Blocks and scenes saved for reuse.
alter table keepsakes rename to snippets;

-- All that a lead is found by, in lower case: address, name and answers.
create extension if not exists pg_trgm;
alter table leads add column search text not null default '';
update leads l set search = left(l.email_key || ' ' || lower(l.name) || coalesce((
    select ' ' || lower(string_agg(distinct said.value, ' ')) from submissions b,
        json_each_text(case json_typeof(b.answers) when 'object' then b.answers else '{}' end) said
    where b.site_id = l.site_id and b.lead_id = l.id), ''), 20000);
create index leads_search on leads using gin (search gin_trgm_ops);

-- +goose Down
drop index leads_search;
alter table leads drop column search;
drop index pieces_due;
alter table pieces drop column paused_until;
alter table snippets rename to keepsakes;
alter table pieces rename column paused_at to rested_at;
alter table pieces drop constraint pieces_state_check;
update pieces set state = 'resting' where state = 'paused';
alter table pieces add constraint pieces_state_check check (state in ('draft', 'live', 'resting', 'over'));
