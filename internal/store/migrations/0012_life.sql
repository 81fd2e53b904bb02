-- +goose Up

alter table pieces add column live_revision int not null default 0; -- grows with each change of what visitors get
alter table pieces add column pauses_at timestamptz; -- a pause that is planned
alter table pieces add column ends_at timestamptz; -- about when the schedule of what is live ends; null: never
update pieces p set ends_at = (live -> 'schedule' ->> 'until')::timestamp at time zone s.zone
from sites s where s.id = p.site_id and p.state = 'live' and live -> 'schedule' ->> 'until' ~ '^\d{4}-\d\d-\d\dT\d\d:\d\d$';
create index pieces_ending on pieces (ends_at) where ends_at is not null;
alter table pieces add column shares_at timestamptz; -- when shares that follow the winner were drawn last
update pieces set live_revision = 1 where live is not null;
update pieces p set shares_at = (select max(began_at) from split_runs r where r.site_id = p.site_id and r.piece_id = p.id)
where live -> 'split' ->> 'follow' = 'true';
drop index pieces_due;
create index pieces_pausing on pieces (least(pauses_at, paused_until)) where pauses_at is not null or paused_until is not null;

alter table piece_moves add column starts timestamptz; -- of a pause that is planned
alter table piece_moves add column account_id bigint references accounts on delete set null; -- who did it; null: nobody, it came about by itself
alter table piece_moves drop constraint piece_moves_did_check;
alter table piece_moves add constraint piece_moves_did_check
    check (did in ('launched', 'replaced', 'paused', 'planned', 'unplanned', 'resumed', 'stayed_paused', 'ended', 'removed', 'restored'));

-- +goose Down
delete from piece_moves where did not in ('launched', 'replaced', 'paused', 'resumed');
alter table piece_moves drop constraint piece_moves_did_check;
alter table piece_moves add constraint piece_moves_did_check check (did in ('launched', 'replaced', 'paused', 'resumed'));
alter table piece_moves drop column account_id, drop column starts;
drop index pieces_pausing;
create index pieces_due on pieces (paused_until) where paused_until is not null;
alter table pieces drop column ends_at, drop column shares_at, drop column pauses_at, drop column live_revision;
