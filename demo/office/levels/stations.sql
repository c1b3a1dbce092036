-- The stations as the office keeps them.
create table station (id text primary key, name text, offset_mm integer);
insert into station values ('HM', 'Harbour Mouth', 140);
insert into station values ('SL', 'Skerry Light', 85);
insert into station values ('KL', 'Kelp Landing', 92);
insert into station values ('CR', 'Cobble Reach', 110);
insert into station values ('HS', 'Heron Sluice', 64);
create index station_name on station (name);
commit;
