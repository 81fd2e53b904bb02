-- +goose Up

-- What walks add to the totals of scenes and answers, and is not added yet: a
-- step writes one row here, without an index, and they are summed up together.
create table walk_counts (
    site_id  bigint not null,
    piece_id text not null,
    variant  text not null,
    day      date not null,
    counts   json not null -- {"scenes": [{scene, reached, left_it, seconds}], "answers": [{key, choice, n}], "ways": [{scene, next, n}]}
);

-- Which ways between scenes were gone, by the day the walks began.
create table way_days (
    site_id  bigint not null,
    piece_id text not null,
    variant  text not null,
    day      date not null,
    scene    text not null,
    next     text not null,
    walks    int not null, -- each once
    primary key (site_id, piece_id, variant, day, scene, next)
);

-- What was answered, the latest first, is read piece by piece.
create index walks_of_piece on walks (site_id, piece_id, began_at desc, id) where state is not null;

-- A walk's site is one that the server has a snapshot of, and sites are never
-- removed: it is not looked up again for each walk.
alter table walks drop constraint walks_site_id_fkey;

-- Nobody asks by these.
drop index submissions_of_piece;
drop index submissions_of_visitor;

-- +goose Down
alter table walks add foreign key (site_id) references sites;
create index submissions_of_visitor on submissions (site_id, piece_id, visitor);
create index submissions_of_piece on submissions (site_id, piece_id, at desc);
drop index walks_of_piece;
drop table walk_counts, way_days;
