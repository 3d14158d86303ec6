{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Push in",
  "line": "Comes nearer: what you see now matters.",
  "tags": [
   "calm",
   "push"
  ],
  "frames": 96.0,
  "nodes": [
   {
    "kind": "camera",
    "id": "camera",
    "name": "Camera",
    "channels": [
     {
      "name": "position.z",
      "value": 4.4,
      "keys": [
       {
        "frame": 0.0,
        "value": 4.4,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       },
       {
        "frame": 96.0,
        "value": 3.0,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       }
      ]
     }
    ]
   }
  ],
  "camera": "camera",
  "focuses": true
 }
}
